import { State } from "../../ui/badges";
import { Button, Fault } from "../../ui/form";
import { upload } from "../../ui/post";
import { Columns } from "./Columns";
import { FileField } from "./FileField";
import { count, FileLine } from "./FileLine";
import { MAX_BYTES } from "./file";
import { Imported } from "./Imported";
import { PlanView } from "./PlanView";
import { Questions } from "./Questions";
import { useRegisterFile } from "./useRegisterFile";

/** File → columns → preview → import. What was chosen survives a reload. */
export function RegisterIn() {
  const { kept, result, busy, fault, open, decide, preview, importIt, answer, another } = useRegisterFile();
  if (result) return <Imported result={result} onAnother={another} />;
  const { said } = kept;
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
        onOther={another}
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
              onClick={importIt}
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
