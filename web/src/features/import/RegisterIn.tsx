import { useRef, useState } from "react";
import { Link } from "react-router";
import { ApiError, api, type Schemas, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { useDraft } from "../../ui/draft";
import { Button, Fault } from "../../ui/form";
import { upload } from "../../ui/post";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Columns } from "./Columns";
import { FileField } from "./FileField";
import { count, FileLine } from "./FileLine";
import { MAX_BYTES } from "./file";
import { PlanView } from "./PlanView";
import { Questions } from "./Questions";

export type Said = Pick<
  Schemas["RegisterFile"],
  "headingLine" | "headingLines" | "mapping" | "corrections" | "leaveOut" | "accepted" | "decimals" | "dateOrder"
>;

type Kept = {
  name: string;
  sha256: string;
  said: Said;
  opened?: Schemas["Opened"];
  understood?: Schemas["UnderstoodFile"];
  plan?: Schemas["Plan"];
};

const nothing: Kept = { name: "", sha256: "", said: {} };

/** File → columns → preview → import. What was chosen survives a reload. */
export function RegisterIn() {
  const [kept, setKept, clear] = useDraft<Kept>("register", nothing);
  const [result, setResult] = useState<Schemas["Plan"]>();
  const { write, busy, fault, setFault } = useWrite();
  const { said } = kept;
  const looks = useRef(0); // an answer to what was said before it was said otherwise is not taken
  const body = (s: Said) => ({ sha256: kept.sha256, name: kept.name, ...s });

  function open(name: string, sent: () => Promise<string>, layout: Said) {
    setResult(undefined);
    write(
      async () => {
        const sha256 = await sent();
        const opened = await unwrap(api.POST("/api/register/open", { body: { sha256, ...layout } }));
        const mapping = opened.columns.map((c) => c.target);
        const said: Said = { ...layout, mapping };
        // A file without a column of names is shown all the same; which it is has to be chosen.
        const understood = mapping.includes("name")
          ? await unwrap(api.POST("/api/register/understand", { body: { sha256, ...said } }))
          : undefined;
        return { name, sha256, said, opened, understood };
      },
      (next) => setKept(next),
    );
  }
  /** Looks again how the cells are read, after something was said otherwise. */
  function decide(change: Said) {
    const next = { ...said, ...change };
    const look = ++looks.current;
    setKept({ ...kept, said: next, plan: undefined });
    write(
      () => unwrap(api.POST("/api/register/understand", { body: body(next) })),
      (understood) => look === looks.current && setKept({ ...kept, said: next, understood, plan: undefined }),
    );
  }
  function preview(change: Said) {
    const next = { ...said, ...change };
    setKept({ ...kept, said: next });
    write(
      () => unwrap(api.POST("/api/register/preview", { body: body(next) })),
      (plan) => setKept({ ...kept, said: next, plan }),
    );
  }
  async function bringIn() {
    let stale = false;
    await write(
      () =>
        unwrap(
          api.POST("/api/register/import", { body: { ...body(said), fingerprint: kept.plan?.fingerprint } }),
        ).catch((e) => {
          stale = e instanceof ApiError && e.status === 409;
          throw e;
        }),
      (done) => {
        setResult(done);
        clear();
        toast("Imported");
      },
    );
    if (stale) preview({});
  }
  function answer(q: Schemas["FileQuestion"], value: string) {
    if (q.about === "dates") return decide({ dateOrder: value as Said["dateOrder"] });
    const decimals = [...(said.decimals ?? [])];
    while (decimals.length <= q.column) decimals.push("");
    decimals[q.column] = value;
    decide({ decimals });
  }

  if (result)
    return (
      <section className="border-l-4 border-good bg-good-wash px-5 py-4">
        <h2 className="text-2xl font-bold">Imported</h2>
        <p className="text-lg">
          {result.created} machines new, {result.changed} changed, {result.same} as they were, {result.leftOut} rows
          left out. Every value stands as claimed until somebody looks.
        </p>
        <p className="mt-3 flex gap-4">
          <Link className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4" to="/">
            To the fleet
          </Link>
          <Button onClick={() => setResult(undefined)}>Another file</Button>
        </p>
      </section>
    );
  const { opened, understood, plan } = kept;
  if (!opened)
    return (
      <div className="space-y-6">
        <FileField
          label={busy ? "Reading the file …" : "Choose or drop the CSV"}
          hint="As it is: your own headings, a title above them, commas or semicolons, decimal commas"
          most={MAX_BYTES}
          onFile={(file) => open(file.name, () => upload(file), {})}
        />
        <Fault text={fault} />
      </div>
    );
  const questions = plan?.questions ?? understood?.questions ?? [];
  return (
    <div className="space-y-6">
      <FileLine
        name={kept.name}
        opened={opened}
        busy={busy}
        onLayout={(layout) => open(kept.name, async () => kept.sha256, layout)}
        onOther={() => {
          clear();
          setFault("");
        }}
      />
      <Questions questions={questions} busy={busy} onAnswer={answer} />
      <Columns
        opened={opened}
        understood={understood}
        mapping={said.mapping ?? []}
        onChange={(mapping) => decide({ mapping })}
      />
      {!plan && (
        <Button main disabled={busy || questions.length > 0} onClick={() => preview({})}>
          {busy ? "Checking every row …" : "Preview the import"}
        </Button>
      )}
      <Fault text={fault} />
      {plan && (
        <>
          <PlanView
            plan={plan}
            busy={busy}
            leaveOut={said.leaveOut ?? []}
            onCorrect={(c) =>
              preview({
                corrections: [...(said.corrections ?? []).filter((k) => k.line !== c.line || k.column !== c.column), c],
              })
            }
            onLeaveOut={(leaveOut) => preview({ leaveOut })}
            onAccept={(lines) => preview({ accepted: [...(said.accepted ?? []), ...lines] })}
          />
          <div className="flex flex-wrap items-center gap-4 border-t-2 border-ink pt-4">
            <Button
              main
              className="min-h-14 px-8 text-xl"
              disabled={busy || plan.faulty > 0 || plan.created + plan.changed === 0 || questions.length > 0}
              onClick={bringIn}
            >
              {busy ? "Working …" : `Import ${count(plan.created + plan.changed, "machine")}`}
            </Button>
            {plan.faulty > 0 && (
              <State tone="look">{count(plan.faulty, "faulty row")}: correct or leave out, then import</State>
            )}
            {plan.created + plan.changed === 0 && plan.faulty === 0 && (
              <span>The register says all this already: nothing to do.</span>
            )}
          </div>
        </>
      )}
    </div>
  );
}
