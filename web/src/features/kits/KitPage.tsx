import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ChangesOfThing } from "../../ui/Changes";
import { keyOf, listOf } from "../../ui/catalogueKeys";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { useAskable } from "../../ui/fleet/question";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { LinesField } from "../../ui/needs/LinesField";
import { NeedEditor } from "../../ui/needs/NeedEditor";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Basics } from "./Basics";
import { Brings } from "./Brings";
import { Fits } from "./Fits";
import { HideKit } from "./HideKit";
import { LastingOffer } from "./LastingOffer";
import { Options } from "./Options";
import { Trial } from "./Trial";

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
  const go = useGo();
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
          <Basics kit={kit} set={set} />
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
          <Options kit={kit} set={set} />
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
          <Fits kit={kit} set={set} />
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
          <Brings kit={kit} set={set} />
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
        <Trial trial={trial} />
      </div>
      {entry.version > 0 && <ChangesOfThing of={{ thing: "kit", key: entry.kit.key }} />}
    </Page>
  );
}

const written = (list: readonly string[] | undefined) => listOf((list ?? []).join("\n"), /\n/);

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
