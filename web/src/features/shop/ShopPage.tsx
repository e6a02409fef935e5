import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showMoment } from "../../ui/dates";
import { AreaField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { OpeningHours } from "../../ui/OpeningHours";
import { Page } from "../../ui/Page";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";

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
  const form = useEditForm("shop", shop.version, {
    name: shop.name,
    timeZone: shop.timeZone,
    currency: shop.currency,
    weekStart: shop.weekStart,
    contact: shop.contact,
    opening: shop.opening,
    dangerMinutes: String(shop.dangerMinutes ?? 5),
  });
  const { control } = form;
  return (
    <SendForm
      form={form}
      className="max-w-3xl space-y-5"
      send={async (typed) => {
        await unwrap(
          api.PUT("/api/shop", {
            body: { ...typed, dangerMinutes: Number(typed.dangerMinutes) || 0, version: form.version },
          }),
        );
        form.clear(); // before the settings come anew, which the form then begins from
      }}
      onSent={() => toast("Saved")}
      button="Save"
    >
      <TextField control={control} name="name" label="Name" hint="As prints and pages show it" maxLength={80} />
      <div className="grid gap-4 sm:grid-cols-3">
        <TextField control={control} name="timeZone" label="Time zone" list="shop-zones" required />
        <TextField control={control} name="currency" label="Currency" list="shop-currencies" required maxLength={3} />
        <SelectField control={control} name="weekStart" label="A week starts on" options={weekStarts} />
      </div>
      <datalist id="shop-zones">
        {zones.map((z) => (
          <option key={z} value={z} />
        ))}
      </datalist>
      <datalist id="shop-currencies">
        {currencies.map((c) => (
          <option key={c} value={c} />
        ))}
      </datalist>
      <p className="text-dim">
        Another time zone holds from now on: days on record stay as they are.
        {shop.before.map((b) => ` ${b.timeZone} was in force until ${showMoment(b.until)}.`)}
      </p>
      <OpeningHours
        weekStart={form.watch("weekStart")}
        hours={form.watch("opening")}
        onChange={(opening) => form.setValue("opening", opening)}
      />
      <AreaField
        control={control}
        name="contact"
        label="Contact"
        hint="Whom to call for help, and how: members see it when they report a danger"
        maxLength={500}
      />
      <TextField
        control={control}
        name="dangerMinutes"
        label="Remind everybody of a danger after, min"
        hint="While nobody has taken it: 1 to 120"
        inputMode="numeric"
      />
    </SendForm>
  );
}
