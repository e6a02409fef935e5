import { GradeMark, gradeWords, VerdictMark, verdictWords } from "../ui/badges";
import { Panel } from "../ui/Panel";
import { usePreferences } from "../ui/preferences";
import { useRole } from "../ui/session";
import { otherKeys, type Place } from "./navigation";

export function Help({
  open,
  onOpenChange,
  places,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  places: readonly Place[];
}) {
  const role = useRole();
  const off = usePreferences().shortcuts === "off";
  const others = otherKeys.filter((k) => k.roles.some((r) => r === role));
  return (
    <Panel open={open} onOpenChange={onOpenChange} title="Keys and marks">
      {off && <p className="mb-4 text-dim">Single keys are switched off; switch them on behind your name.</p>}
      <div className="grid gap-8 sm:grid-cols-2">
        <dl className="space-y-2">
          {[...places.map((p) => ({ key: p.key, label: `${p.label}: ${p.hint}` })), ...others].map((k) => (
            <div key={k.key} className="flex gap-3">
              <dt className="w-14 shrink-0">
                <kbd className="border border-line bg-wall px-2 py-0.5 font-mono">{k.key}</kbd>
              </dt>
              <dd>{k.label}</dd>
            </div>
          ))}
        </dl>
        <div className="space-y-6">
          <ul className="space-y-2">
            {gradeWords.map(([grade, meaning]) => (
              <li key={grade} className="flex gap-3">
                <span className="w-24 shrink-0">
                  <GradeMark grade={grade} />
                </span>
                {meaning}
              </li>
            ))}
          </ul>
          <ul className="space-y-2">
            {verdictWords.map(([answer, meaning]) => (
              <li key={answer} className="flex gap-3">
                <span className="w-32 shrink-0">
                  <VerdictMark answer={answer} />
                </span>
                {meaning}
              </li>
            ))}
          </ul>
        </div>
      </div>
    </Panel>
  );
}
