import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { useNavigate, useParams } from "react-router";
import { api, messageOf, type Schemas, take } from "../api/client";
import { useMayWork } from "../app/session";
import { keyOf, listOf } from "../catalogue/keys";
import { useAskable } from "../fleet/question";
import { useEdit } from "../parts/draft";
import { Button, Fault, Field, TextArea, TextInput } from "../parts/form";
import { LinkButton } from "../parts/LinkButton";
import { Meanwhile } from "../parts/Meanwhile";
import { VerdictMark } from "../parts/marks";
import { NumberInput } from "../parts/NumberInput";
import { Page } from "../parts/Page";
import { Loaded } from "../parts/states";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";
import { NeedEditor } from "./NeedEditor";
import { StepsEditor } from "./StepsEditor";
import { UsesEditor } from "./UsesEditor";

const blank: Schemas["Kit"] = {
  key: "",
  name: "",
  what: "",
  about: "",
  price: 0,
  minutes: 60,
  skill: "",
  parts: [],
  tools: [],
  needs: { label: "needs", all: [] },
  effects: [],
  steps: [],
};

/** A kit with what it asks for, tried against the fleet while it is written. */
export default function KitPage() {
  const { key = "new" } = useParams();
  const query = useQuery({
    queryKey: ["kit-entry", key],
    queryFn: () => take(api.GET("/api/kits/{key}/entry", { params: { path: { key } } })),
    enabled: key !== "new",
  });
  if (key === "new") return <KitEditor entry={{ kit: blank, version: 0, shipped: false }} />;
  return (
    <Loaded query={query} what="Reading the kit">
      {(entry) => <KitEditor entry={entry} />}
    </Loaded>
  );
}

function KitEditor({ entry }: { entry: Schemas["KitEntry"] }) {
  const mayWork = useMayWork();
  const go = useNavigate();
  const askable = useAskable();
  const edit = useEdit(`kit-${entry.kit.key || "new"}`, entry.version, {
    kit: entry.kit,
    effects: entry.kit.effects.map(effectLine).join("\n"),
  });
  const { value: d, set: setD, clear } = edit;
  const kit = d.kit;
  const set = (change: Partial<Schemas["Kit"]>) => setD({ ...d, kit: { ...kit, ...change } });
  const whole: Schemas["Kit"] = {
    ...kit,
    key: entry.kit.key || keyOf(kit.name),
    needs: { ...kit.needs, label: kit.name || "needs" },
    effects: lines(d.effects).map(effectOf),
    parts: lines(kit.parts.join("\n")),
    screws: lines((kit.screws ?? []).join("\n")),
  };
  const deferred = useDeferredValue(JSON.stringify(whole));
  const trial = useQuery({
    queryKey: ["try-kit", deferred],
    queryFn: () => take(api.POST("/api/kits/try", { body: JSON.parse(deferred) })),
    placeholderData: (before) => before,
    retry: false,
    enabled: mayWork,
  });
  const { write, busy, fault } = useWrite();
  return (
    <Page
      title={entry.version ? `What ${entry.kit.name} asks for` : "A new kit"}
      lead={entry.shipped ? "As it came with the application; saved, it is the shop's own." : "The shop's own."}
      actions={entry.version > 0 && <LinkButton to={`/ask/${entry.kit.key}`}>Its verdicts</LinkButton>}
    >
      <div className="grid gap-8 xl:grid-cols-[minmax(0,3fr)_minmax(20rem,2fr)]">
        <form
          className="space-y-5"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () => take(api.POST("/api/kits", { body: { version: edit.version, kit: whole } })),
              (saved) => {
                clear();
                say(`${saved.kit.name} is saved`);
                go(`/ask/${saved.kit.key}`);
              },
            );
          }}
        >
          <div className="grid gap-4 sm:grid-cols-2">
            <Field label="Name" htmlFor="kit-name">
              <TextInput id="kit-name" required value={kit.name} onChange={(name) => set({ name })} />
            </Field>
            <Field label="Kind of upgrade" htmlFor="kit-what">
              <TextInput id="kit-what" required value={kit.what} onChange={(what) => set({ what })} />
            </Field>
            <Field label="Price" htmlFor="kit-price">
              <NumberInput id="kit-price" value={kit.price} onChange={(price) => set({ price })} />
            </Field>
            <Field label="Minutes" htmlFor="kit-minutes">
              <NumberInput id="kit-minutes" value={kit.minutes} onChange={(minutes) => set({ minutes })} />
            </Field>
            <Field label="Skill" htmlFor="kit-skill">
              <TextInput id="kit-skill" value={kit.skill} onChange={(skill) => set({ skill })} />
            </Field>
            <Field label="What a new build must have" htmlFor="kit-build" hint="Empty when none is needed">
              <TextInput id="kit-build" value={kit.newBuild ?? ""} onChange={(newBuild) => set({ newBuild })} />
            </Field>
          </div>
          <Field label="About" htmlFor="kit-about">
            <TextInput id="kit-about" value={kit.about} onChange={(about) => set({ about })} />
          </Field>
          <section aria-labelledby="needs">
            <h2 id="needs" className="mb-2 text-2xl font-bold">
              What it needs
            </h2>
            <NeedEditor
              need={kit.needs}
              root
              columns={askable.data?.columns.filter((c) => c.slot) ?? []}
              onChange={(needs) => set({ needs })}
            />
          </section>
          <UsesEditor uses={kit.uses ?? []} onChange={(uses) => set({ uses })} />
          <Field
            label="What it fits"
            htmlFor="kit-effects"
            hint="One line each: slot = model; trait = value; … (probe = Plumbline; senses = surface, by touch). none empties a slot"
          >
            <TextArea
              id="kit-effects"
              className="font-mono"
              value={d.effects}
              onChange={(effects) => setD({ ...d, effects })}
            />
          </Field>
          <div className="grid gap-4 sm:grid-cols-2">
            <Field label="Parts, one a line" htmlFor="kit-parts">
              <TextArea id="kit-parts" value={kit.parts.join("\n")} onChange={(t) => set({ parts: t.split("\n") })} />
            </Field>
            <Field label="Screws, one a line" htmlFor="kit-screws">
              <TextArea
                id="kit-screws"
                value={(kit.screws ?? []).join("\n")}
                onChange={(t) => set({ screws: t.split("\n") })}
              />
            </Field>
          </div>
          <StepsEditor steps={kit.steps} onChange={(steps) => set({ steps })} />
          <Fault text={fault} />
          <Meanwhile edit={edit} busy={busy} />
          {mayWork && (
            <div className="flex gap-2">
              <Button type="submit" main disabled={busy || edit.changed || Boolean(trial.data?.problem)}>
                Save the kit
              </Button>
              <Button onClick={clear}>As it was</Button>
            </div>
          )}
        </form>
        <section aria-labelledby="trial" aria-live="polite">
          <h2 id="trial" className="mb-2 text-2xl font-bold">
            On the fleet, as written
          </h2>
          {trial.isError && <Fault text={messageOf(trial.error)} />}
          {trial.data?.problem && <Fault text={trial.data.problem} />}
          {trial.data && !trial.data.problem && (
            <>
              <p className="mb-2">
                fits {trial.data.counts.fits}, fits if {trial.data.counts.fitsIf}, look first{" "}
                {trial.data.counts.lookFirst}, does not fit {trial.data.counts.doesNotFit}
              </p>
              <ul className="bg-leaf">
                {trial.data.rows.map((r) => (
                  <li key={r.machine} className="border-b border-rule px-3 py-1.5">
                    <span className="flex justify-between gap-3">
                      <b>{r.machine}</b> <VerdictMark answer={r.answer} />
                    </span>
                    <span className="text-sm text-dim">{r.headline}</span>
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
      </div>
    </Page>
  );
}

const lines = (text: string) => listOf(text, /\n/);

function effectLine(e: Schemas["Effect"]): string {
  const traits = Object.entries(e.traits ?? {}).map(([k, v]) => `; ${k} = ${v}`);
  return `${e.slot} = ${e.model}${traits.join("")}`;
}

function effectOf(line: string): Schemas["Effect"] {
  const [first = "", ...rest] = line.split(";");
  const cut = (t: string) => {
    const at = t.indexOf("=");
    return at < 0 ? ([t.trim(), ""] as const) : ([t.slice(0, at).trim(), t.slice(at + 1).trim()] as const);
  };
  const [slot, model] = cut(first);
  const traits = Object.fromEntries(rest.filter((t) => t.trim()).map(cut));
  return rest.length > 0 ? { slot, model, traits } : { slot, model };
}
