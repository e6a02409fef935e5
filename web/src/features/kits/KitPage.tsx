import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { useNavigate, useParams } from "react-router";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { LeanCounts, VerdictMark } from "../../ui/badges";
import { ChangesOfThing } from "../../ui/Changes";
import { keyOf, listOf } from "../../ui/catalogueKeys";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { useAskable } from "../../ui/fleet/question";
import { Button, Fault, Field, Select, TextArea, TextInput } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { NumberInput } from "../../ui/NumberInput";
import { EffectsEditor } from "../../ui/needs/EffectsEditor";
import { blankFurther, FurtherEditor } from "../../ui/needs/FurtherEditor";
import { LinesField } from "../../ui/needs/LinesField";
import { NeedEditor } from "../../ui/needs/NeedEditor";
import { StepList } from "../../ui/needs/StepsEditor";
import { UsesEditor } from "../../ui/needs/UsesEditor";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { HideKit } from "./HideKit";
import { LastingOffer } from "./LastingOffer";

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
    queryKey: keys.kitEntry(key),
    queryFn: () => unwrap(api.GET("/api/kits/{key}/entry", { params: { path: { key } } })),
    enabled: key !== "new",
  });
  if (key === "new") return <KitEditor entry={{ kit: blank, version: 0, shipped: false, returns: false }} />;
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
  const edit = useEdit(`kit-${entry.kit.key || "new"}`, entry.version, entry.kit);
  const { value: kit, set: setKit, clear } = edit;
  const set = (change: Partial<Schemas["Kit"]>) => setKit({ ...kit, ...change });
  const whole: Schemas["Kit"] = {
    ...kit,
    key: entry.kit.key || keyOf(kit.name),
    needs: { ...kit.needs, label: kit.name || "needs" },
    parts: written(kit.parts),
    tools: written(kit.tools),
    screws: written(kit.screws),
    soldFor: written(kit.soldFor),
    startCode: written(kit.startCode),
    slicer: written(kit.slicer),
  };
  const area = kit.areaLoss ?? [0, 0, 0];
  const deferred = useDeferredValue(JSON.stringify(whole));
  const trial = useQuery({
    queryKey: keys.tryKit(deferred),
    queryFn: () => unwrap(api.POST("/api/kits/try", { body: JSON.parse(deferred) })),
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
              () => unwrap(api.POST("/api/kits", { body: { version: edit.version, kit: whole } })),
              (saved) => {
                clear();
                toast(`${saved.kit.name} is saved`);
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
          </div>
          <div className="grid gap-4 sm:grid-cols-[7rem_7rem_1fr]">
            <Field label="Price" htmlFor="kit-price">
              <NumberInput id="kit-price" value={kit.price} onChange={(price) => set({ price })} />
            </Field>
            <Field label="Minutes" htmlFor="kit-minutes">
              <NumberInput id="kit-minutes" value={kit.minutes} onChange={(minutes) => set({ minutes })} />
            </Field>
            <Field label="Skill" htmlFor="kit-skill">
              <TextInput id="kit-skill" value={kit.skill} onChange={(skill) => set({ skill })} />
            </Field>
          </div>
          <Field label="About" htmlFor="kit-about">
            <TextArea id="kit-about" rows={2} value={kit.about} onChange={(about) => set({ about })} />
          </Field>
          <LastingOffer entry={entry} edited={!same(kit, entry.kit)} />
          <section aria-labelledby="needs">
            <h2 id="needs" className="text-2xl font-bold">
              What it needs while it is fitted
            </h2>
            <p className="mb-2 text-dim">
              On the machine as it then is. What its parts need as long as they are fitted is said of their models, in
              the catalogue.
            </p>
            <NeedEditor
              need={kit.needs}
              root
              columns={askable.data?.columns.filter((c) => c.slot) ?? []}
              onChange={(needs) => set({ needs })}
            />
          </section>
          <section aria-labelledby="options">
            <h2 id="options" className="text-2xl font-bold">
              Additional changes that it offers
            </h2>
            <p className="mb-2 text-dim">Judged on the machine with them made: the kit then fits if they are.</p>
            {(kit.options ?? []).map((f, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a change has no identity but its place
              <div key={i} className="mb-3 border-l-4 border-line bg-leaf px-3 py-2">
                <FurtherEditor
                  further={f}
                  onChange={(x) => set({ options: (kit.options ?? []).map((o, k) => (k === i ? x : o)) })}
                />
                <Button
                  danger
                  className="mt-2"
                  onClick={() => set({ options: (kit.options ?? []).filter((_, k) => k !== i) })}
                >
                  Remove this change
                </Button>
              </div>
            ))}
            <Button onClick={() => set({ options: [...(kit.options ?? []), blankFurther] })}>
              Offer an additional change
            </Button>
          </section>
          <section aria-labelledby="result">
            <h2 id="result" className="text-2xl font-bold">
              Wanted result
            </h2>
            <p className="mb-2 text-dim">On the machine that the work, or a whole plan, ends in.</p>
            {kit.result ? (
              <NeedEditor
                need={kit.result}
                columns={askable.data?.columns.filter((c) => c.slot) ?? []}
                onChange={(result) => set({ result })}
                onDrop={() => set({ result: undefined })}
              />
            ) : (
              <Button onClick={() => set({ result: { label: "The wanted result", all: [] } })}>
                Add a wanted result
              </Button>
            )}
          </section>
          <section aria-labelledby="uses">
            <h2 id="uses" className="text-2xl font-bold">
              What it takes
            </h2>
            <p className="mb-2 text-dim">
              Of what the machine has; a number below 0 frees. Area and mass count by themselves. So do the power and
              the driver outputs of the parts it fits, where nothing is written of them here.
            </p>
            <UsesEditor name="Takes" add="Add what it takes" uses={kit.uses ?? []} onChange={(uses) => set({ uses })} />
          </section>
          <section aria-labelledby="fits">
            <h2 id="fits" className="mb-2 text-2xl font-bold">
              What it fits, moves and sets
            </h2>
            <EffectsEditor
              name="Fits"
              add="Add what it fits"
              effects={kit.effects}
              onChange={(effects) => set({ effects })}
            />
            <div className="mt-4" />
            <Field
              label="For which head"
              htmlFor="kit-heads"
              hint="Write it for head 1; for another head the same places there are meant"
            >
              <Select
                id="kit-heads"
                className="max-w-96"
                value={kit.heads ?? ""}
                onChange={(heads) => set({ heads: heads as Schemas["Kit"]["heads"] })}
                options={headTargets}
              />
            </Field>
          </section>
          <section aria-labelledby="steps">
            <h2 id="steps" className="mb-2 text-2xl font-bold">
              How it is fitted
            </h2>
            <StepList name="Step" add="Add a step" steps={kit.steps} onChange={(steps) => set({ steps })} />
          </section>
          <section aria-labelledby="box">
            <h2 id="box" className="mb-2 text-2xl font-bold">
              In the box and on the bench
            </h2>
            <div className="grid gap-4 sm:grid-cols-3">
              <LinesField label="Parts" value={kit.parts} onChange={(parts) => set({ parts })} />
              <LinesField label="Screws" value={kit.screws} onChange={(screws) => set({ screws })} />
              <LinesField label="Tools" value={kit.tools} onChange={(tools) => set({ tools })} />
            </div>
          </section>
          <section aria-labelledby="brings">
            <h2 id="brings" className="mb-2 text-2xl font-bold">
              What it brings with it
            </h2>
            <div className="space-y-4">
              <Field label="What a new build must have" htmlFor="kit-build" hint="Empty when none is needed">
                <TextInput id="kit-build" value={kit.newBuild ?? ""} onChange={(newBuild) => set({ newBuild })} />
              </Field>
              <LinesField
                label="Sold for"
                hint="The machines that its seller lists, as they are sold; a claim that decides nothing"
                value={kit.soldFor}
                onChange={(soldFor) => set({ soldFor })}
              />
              <Field label="What may go wrong" htmlFor="kit-risk">
                <TextInput id="kit-risk" value={kit.risk ?? ""} onChange={(risk) => set({ risk })} />
              </Field>
              <div className="grid gap-4 sm:grid-cols-2">
                <LinesField
                  label="Start code"
                  hint="Such as: G29 on the line after G28"
                  value={kit.startCode}
                  onChange={(startCode) => set({ startCode })}
                />
                <LinesField label="Slicer" value={kit.slicer} onChange={(slicer) => set({ slicer })} />
              </div>
              <div className="grid gap-4 sm:grid-cols-5">
                <Field label="Toolhead, g" htmlFor="kit-head-grams">
                  <NumberInput
                    id="kit-head-grams"
                    value={kit.toolheadGrams ?? 0}
                    onChange={(toolheadGrams) => set({ toolheadGrams })}
                  />
                </Field>
                <Field label="Bed, g" htmlFor="kit-bed-grams">
                  <NumberInput
                    id="kit-bed-grams"
                    value={kit.bedGrams ?? 0}
                    onChange={(bedGrams) => set({ bedGrams })}
                  />
                </Field>
                {["X", "Y", "Z"].map((axis, i) => (
                  <Field key={axis} label={`${axis} lost, mm`} htmlFor={`kit-loss-${axis}`}>
                    <NumberInput
                      id={`kit-loss-${axis}`}
                      value={area[i] ?? 0}
                      onChange={(mm) => set({ areaLoss: area.map((x, k) => (k === i ? mm : x)) })}
                    />
                  </Field>
                ))}
              </div>
              <p className="text-sm text-dim">Mass added, print area lost; below 0 when it grows less or gains.</p>
            </div>
          </section>
          <Fault text={fault} />
          <EditConflict edit={edit} busy={busy} />
          {mayWork && (
            <div className="flex flex-wrap gap-2">
              <Button type="submit" main disabled={busy || edit.changed || Boolean(trial.data?.problem)}>
                Save the kit
              </Button>
              <Button onClick={clear}>As it was</Button>
              {entry.version > 0 && !entry.shipped && (
                <Button
                  danger
                  disabled={busy || edit.changed}
                  onClick={() =>
                    write(
                      () =>
                        unwrap(
                          api.POST("/api/kits/{key}/delete", {
                            params: { path: { key: entry.kit.key } },
                            body: { version: edit.version },
                          }),
                        ),
                      ({ back }) => {
                        clear();
                        toast(back ? `${entry.kit.name} is as it came again` : `${entry.kit.name} is deleted`);
                        go("/ask");
                      },
                    )
                  }
                >
                  {entry.returns ? "Restore the shipped kit" : "Delete this kit"}
                </Button>
              )}
              {entry.kit.key && <HideKit kit={entry.kit.key} name={entry.kit.name} />}
            </div>
          )}
        </form>
        <section
          aria-labelledby="trial"
          aria-live="polite"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and so is to be reached by keyboard
          tabIndex={0}
          className="xl:sticky xl:top-4 xl:max-h-[calc(100dvh-2rem)] xl:self-start xl:overflow-y-auto"
        >
          <h2 id="trial" className="mb-2 text-2xl font-bold">
            On the fleet, as written
          </h2>
          {trial.isPending && <p className="text-dim">Judging it on every machine …</p>}
          {trial.isError && <Fault text={messageOf(trial.error)} />}
          {trial.data?.problem && <Fault text={trial.data.problem} />}
          {trial.data && !trial.data.problem && (
            <>
              <p className="mb-2">
                fits {trial.data.counts.fits}, fits if {trial.data.counts.fitsIf}, look first{" "}
                {trial.data.counts.lookFirst}, does not fit {trial.data.counts.doesNotFit}
                <LeanCounts counts={trial.data.counts} />
              </p>
              {trial.data.hints.map((h) => (
                <p key={h} className="mb-2 border-l-4 border-look px-3 py-1">
                  {h}.
                </p>
              ))}
              <ul className="bg-leaf">
                {trial.data.rows.map((r) => (
                  <li key={r.machine} className="border-b border-rule px-3 py-1.5">
                    <span className="flex justify-between gap-3">
                      <b>{r.machine}</b> <VerdictMark answer={r.answer} lean={r.lean} />
                    </span>
                    {r.was && <span className="block text-sm font-semibold">as it is saved: {r.was}</span>}
                    <span className="text-sm text-dim">{r.headline}</span>
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
      </div>
      {entry.version > 0 && <ChangesOfThing of={{ thing: "kit", key: entry.kit.key }} />}
    </Page>
  );
}

const headTargets: [string, string][] = [
  ["", "Only the head that it names"],
  ["any", "Any one head"],
  ["each", "Each head of the machine"],
];

const written = (list: readonly string[] | undefined) => listOf((list ?? []).join("\n"), /\n/);

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
