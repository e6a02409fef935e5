import { useQuery } from "@tanstack/react-query";
import { useFieldArray } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../../ui/form";
import { NumberField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Page } from "../../ui/Page";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";

/** How the shop plans: how far ahead, what counts how much, what stays up, and what machines hang on. */
export default function PlanningPage() {
  const planning = useQuery({ queryKey: keys.planning(), queryFn: () => unwrap(api.GET("/api/planning")) });
  const questions = useQuery({ queryKey: keys.askable(), queryFn: () => unwrap(api.GET("/api/fleet/askable")) });
  const fleet = useQuery({
    queryKey: keys.usable("planning"),
    queryFn: () => unwrap(api.GET("/api/usable", { params: { query: { limit: 500 } } })),
  });
  const all =
    planning.data && questions.data && fleet.data
      ? { planning: planning.data, questions: questions.data.saved, machines: fleet.data.machines }
      : undefined;
  return (
    <Page title="How the weeks are planned">
      <Loaded query={{ ...planning, data: all }} what="Reading the settings">
        {(x) => <Settings key={x.planning.version} {...x} />}
      </Loaded>
    </Page>
  );
}

type Draft = {
  days?: number;
  late?: number;
  waste?: number;
  down?: number;
  setUp?: number;
  walk?: number;
  floors: { question: string; least?: number }[];
  circuits: { name: string; watts?: number; machines: string }[];
};

function Settings({
  planning: p,
  questions,
  machines,
}: {
  planning: Schemas["Planning"];
  questions: readonly Schemas["SavedQuestion"][];
  machines: readonly Schemas["Usable"][];
}) {
  const nameOf = new Map(machines.map((m) => [m.id, m.name]));
  const form = useEditForm<Draft>("planning", p.version, {
    days: p.days,
    ...p.weights,
    floors: p.floors.map((f) => ({ question: String(f.question), least: f.least })),
    circuits: p.circuits.map((c) => ({
      name: c.name,
      watts: c.watts,
      machines: c.machines.map((id) => nameOf.get(id) ?? "").join(", "),
    })),
  });
  const { control } = form;
  const floors = useFieldArray({ control, name: "floors" });
  const circuits = useFieldArray({ control, name: "circuits" });
  return (
    <SendForm
      className="max-w-4xl space-y-6"
      form={form}
      send={(t) => unwrap(api.PUT("/api/planning", { body: bodyOf(t, machines, form.version) }))}
      onSent={() => toast("Saved: the next plan goes by it")}
      button="Save"
    >
      <div className="max-w-60">
        <NumberField control={control} name="days" label="How far ahead, days" hint="1 to 35" />
      </div>
      <fieldset>
        <legend className="mb-1 text-xl font-bold">What counts how much</legend>
        <p className="mb-2 text-dim">
          Everything is counted in minutes of work. What is not planned at all costs more than any time.
        </p>
        <div className="grid gap-3 sm:grid-cols-2">
          <NumberField control={control} name="late" label="A day late, times the risk from 1 to 4, min" />
          <NumberField control={control} name="down" label="A minute down in the busiest hour, min" />
          <NumberField control={control} name="waste" label="A minute of work done a whole interval early, min" />
          <NumberField control={control} name="walk" label="A walk to another bay, min" />
          <NumberField control={control} name="setUp" label="Another kind of work, and the first of a day, min" />
        </div>
      </fieldset>
      <fieldset>
        <legend className="mb-1 text-xl font-bold">Machines that stay up while the shop is open</legend>
        {questions.length === 0 && (
          <p className="text-dim">An ability is a saved question of the fleet: save one there first.</p>
        )}
        {floors.fields.map((f, i) => (
          <div key={f.id} className="mb-2 flex flex-wrap items-end gap-3">
            <div className="w-72">
              <SelectField
                control={control}
                name={`floors.${i}.question`}
                label="Ability"
                options={questions.map((q) => [String(q.id), q.name] as const)}
                empty="choose"
                required
              />
            </div>
            <div className="w-32">
              <NumberField control={control} name={`floors.${i}.least`} label="At least" />
            </div>
            <Button onClick={() => floors.remove(i)}>Remove</Button>
          </div>
        ))}
        <Button onClick={() => floors.append({ question: "", least: 1 })}>Add an ability</Button>
      </fieldset>
      <fieldset>
        <legend className="mb-1 text-xl font-bold">Circuits</legend>
        <p className="mb-2 text-dim">
          Work that heats is staggered so that the machines on a circuit stay below what it bears. This replaces no
          circuit of the right size: fixed wiring is for a licensed electrician, or as local rules say.
        </p>
        {circuits.fields.map((c, i) => (
          <div key={c.id} className="mb-2 flex flex-wrap items-end gap-3">
            <div className="w-44">
              <TextField control={control} name={`circuits.${i}.name`} label="Name" required maxLength={60} />
            </div>
            <div className="w-36">
              <NumberField control={control} name={`circuits.${i}.watts`} label="Bears, W" />
            </div>
            <div className="min-w-60 flex-1">
              <TextField
                control={control}
                name={`circuits.${i}.machines`}
                label="Machines on it, by name"
                maxLength={4000}
              />
            </div>
            <Button onClick={() => circuits.remove(i)}>Remove</Button>
          </div>
        ))}
        <Button onClick={() => circuits.append({ name: "", watts: 3000, machines: "" })}>Add a circuit</Button>
      </fieldset>
    </SendForm>
  );
}

function bodyOf(t: Draft, machines: readonly Schemas["Usable"][], version: number): Schemas["Planning"] {
  const idOf = new Map(machines.map((m) => [m.name.toLowerCase(), m.id]));
  const named = (text: string) =>
    text
      .split(",")
      .map((n) => n.trim())
      .filter(Boolean)
      .map((n) => {
        const id = idOf.get(n.toLowerCase());
        if (!id) throw new Error(`There is no machine named ${n}; write the names as the fleet has them.`);
        return id;
      });
  return {
    days: t.days ?? 28,
    weights: { late: t.late ?? 0, waste: t.waste ?? 0, down: t.down ?? 0, setUp: t.setUp ?? 0, walk: t.walk ?? 0 },
    floors: t.floors.map((f) => ({ question: Number(f.question), least: f.least ?? 1 })),
    circuits: t.circuits.map((c) => ({ id: 0, name: c.name, watts: c.watts ?? 0, machines: named(c.machines) })),
    version,
  };
}
