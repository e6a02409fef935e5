import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showMoment } from "../../ui/dates";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Fault, Field, Select, TextArea, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { OpeningHours } from "./OpeningHours";

type Shop = Schemas["Shop"];

/** What is set for the shop as a whole. */
export default function ShopPage() {
  const query = useQuery({ queryKey: keys.shop(), queryFn: () => unwrap(api.GET("/api/shop")) });
  return (
    <Page title="Shop settings" lead="They hold for everybody who works here.">
      <Loaded query={query} what="Reading the settings">
        {(shop) => <Settings key={shop.version} shop={shop} />}
      </Loaded>
    </Page>
  );
}

const zones = Intl.supportedValuesOf("timeZone");
const currencies = Intl.supportedValuesOf("currency");
const weekStarts = [
  ["monday", "Monday"],
  ["sunday", "Sunday"],
  ["saturday", "Saturday"],
] as const;

function Settings({ shop }: { shop: Shop }) {
  const edit = useEdit("shop", shop.version, {
    name: shop.name,
    timeZone: shop.timeZone,
    currency: shop.currency,
    weekStart: shop.weekStart,
    contact: shop.contact,
    opening: shop.opening,
  });
  const { value, set, clear, version } = edit;
  const { write, busy, fault } = useWrite();
  return (
    <form
      className="max-w-3xl space-y-5"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          async () => {
            await unwrap(api.PUT("/api/shop", { body: { ...value, version } }));
            clear(); // before the settings come anew, which the form then begins from
          },
          () => toast("Saved"),
        );
      }}
    >
      <Field label="Name" htmlFor="shop-name" hint="As prints and pages show it">
        <TextInput id="shop-name" maxLength={80} value={value.name} onChange={(name) => set({ ...value, name })} />
      </Field>
      <div className="grid gap-4 sm:grid-cols-3">
        <Field label="Time zone" htmlFor="shop-zone">
          <TextInput
            id="shop-zone"
            list="shop-zones"
            required
            value={value.timeZone}
            onChange={(timeZone) => set({ ...value, timeZone })}
          />
          <datalist id="shop-zones">
            {zones.map((z) => (
              <option key={z} value={z} />
            ))}
          </datalist>
        </Field>
        <Field label="Currency" htmlFor="shop-currency">
          <TextInput
            id="shop-currency"
            list="shop-currencies"
            required
            maxLength={3}
            value={value.currency}
            onChange={(currency) => set({ ...value, currency })}
          />
          <datalist id="shop-currencies">
            {currencies.map((c) => (
              <option key={c} value={c} />
            ))}
          </datalist>
        </Field>
        <Field label="A week starts on" htmlFor="shop-week">
          <Select
            id="shop-week"
            value={value.weekStart}
            onChange={(day) => set({ ...value, weekStart: day as Shop["weekStart"] })}
            options={weekStarts}
          />
        </Field>
      </div>
      <p className="text-dim">
        Another time zone holds from now on: days on record stay as they are.
        {shop.before.map((b) => ` ${b.timeZone} was in force until ${showMoment(b.until)}.`)}
      </p>
      <OpeningHours
        weekStart={value.weekStart}
        hours={value.opening}
        onChange={(opening) => set({ ...value, opening })}
      />
      <Field label="Contact" htmlFor="shop-contact" hint="Whom to ask, and how: members see it">
        <TextArea
          id="shop-contact"
          maxLength={500}
          value={value.contact}
          onChange={(contact) => set({ ...value, contact })}
        />
      </Field>
      <Fault text={fault} />
      <EditConflict edit={edit} busy={busy} />
      <Button type="submit" main disabled={busy}>
        Save
      </Button>
    </form>
  );
}
