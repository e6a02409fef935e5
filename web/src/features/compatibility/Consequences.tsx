import type { Schemas } from "../../api/client";
import { showMoney } from "../../ui/money";
import { ThenConsequences } from "./Advice";

export type Sheet = Schemas["VerdictSheet"];

export function Consequences({ sheet }: { sheet: Sheet }) {
  return (
    <section aria-labelledby="consequences" className="space-y-4">
      <h2 id="consequences" className="text-2xl font-bold">
        What it will do
      </h2>
      <dl className="grid grid-cols-[max-content_1fr] gap-x-4">
        {[
          ["Takes", `about ${sheet.minutes} minutes, price ${showMoney(sheet.price)}`],
          ["Skill", sheet.kit.skill],
          ["Tools", sheet.kit.tools.join(", ")],
          ["In the box", sheet.kit.parts.join(", ")],
          ["Screws", (sheet.kit.screws ?? []).join(", ")],
          ["Risk", sheet.kit.risk ?? ""],
        ]
          .filter(([, text]) => text)
          .map(([word, text]) => (
            <div key={word} className="contents">
              <dt className="text-dim">{word}</dt>
              <dd>{text}</dd>
            </div>
          ))}
      </dl>
      <div>
        <h3 className="font-bold">Changed</h3>
        <ul>
          {sheet.exchanges.map((x) => (
            <li key={x.slot} className="border-b border-rule py-1">
              {x.label}: <span className="text-dim">{x.before}</span> → <b>{x.after}</b>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h3 className="font-bold">No longer valid</h3>
        {sheet.invalid.length === 0 && <p className="text-dim">No recorded calibration depends on what changes.</p>}
        <ul>
          {sheet.invalid.map((x) => (
            <li key={x.title} className="border-b border-rule py-1">
              <b>{x.title}</b> {x.value && <span className="font-mono">{x.value}</span>}: {x.remedy}
              <span className="block text-sm text-dim">{x.reason}</span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h3 className="font-bold">To do afterwards, in this order</h3>
        <p>{sheet.needed.join(" → ") || "Nothing."}</p>
      </div>
      <ThenConsequences kit={sheet.kit.key} machineId={sheet.machineId} />
    </section>
  );
}
