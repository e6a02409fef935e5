import { api, unwrap } from "../../api/client";
import { AreaField, DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { toast } from "../../ui/toast";
import { LikeField, likeOf } from "./LikeField";
import { draftOf, fieldsOf } from "./MachineFields";

const shared = [
  ["bay", "Bay"],
  ["maker", "Maker and model of the machines"],
  ["supplier", "Supplier"],
] as const;

/** Several machines that were bought alike: their names, and once what they have in common. */
export default function SeveralMachines() {
  const go = useGo();
  const mayWork = useMayWork();
  const form = useKeptForm("several-machines", {
    names: "",
    like: "",
    bay: "",
    maker: "",
    supplier: "",
    boughtOn: "",
  });
  const names = linesOf(form.watch("names"));
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page title="Several alike machines" lead="What they differ in is read off each machine afterwards.">
      <SendForm
        form={form}
        className="max-w-xl space-y-4"
        send={({ names, like, bay, maker, supplier, boughtOn }) => {
          const each = linesOf(names);
          const fields = fieldsOf(draftOf({ bay, maker, supplier, boughtOn, name: each[0] }));
          return unwrap(api.POST("/api/fleet/machines", { body: { names: each, fields, like: likeOf(like) } }));
        }}
        onSent={(_, typed) => {
          const n = linesOf(typed.names).length;
          toast(`${n} ${n === 1 ? "machine is" : "machines are"} in the register`);
          go("/fleet");
        }}
        button={names.length > 1 ? `Add ${names.length} machines` : "Add the machine"}
        disabled={names.length === 0}
      >
        <AreaField
          control={form.control}
          name="names"
          label="Names"
          hint="Each on a line of its own"
          required
          rows={6}
        />
        {shared.map(([key, label]) => (
          <TextField key={key} control={form.control} name={key} label={label} />
        ))}
        <DayField control={form.control} name="boughtOn" label="Bought on" />
        <LikeField control={form.control} name="like" />
      </SendForm>
    </Page>
  );
}

function linesOf(text: string) {
  return text
    .split("\n")
    .map((n) => n.trim())
    .filter(Boolean);
}
