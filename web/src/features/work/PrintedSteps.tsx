import { type Order, settled } from "./StepList";

/** All steps on paper, with a box for each. */
export function PrintedSteps({ order }: { order: Order }) {
  return (
    <ol className="hidden print:block">
      {order.stepList.map((s, i) => (
        <li key={s.key} className="break-inside-avoid border-b border-line py-2">
          <b>
            {settled(s) ? "☑" : "☐"} {i + 1}. {s.title}
          </b>{" "}
          ({s.phase})<p>{s.do}</p>
          {s.cautions.map((c) => (
            <p key={c}>▲ {c}</p>
          ))}
          {s.lines && <p className="font-mono">{s.lines.join(" · ")}</p>}
          {s.found?.map((f) => (
            <p key={f.key}>
              {f.label}: {s.data.found?.[f.key] || "__________"}
              {f.advertised && ` (advertised: ${f.advertised})`}
            </p>
          ))}
          {s.transfers &&
            order.transfer?.wires.map((w) => (
              <p key={w.key}>
                {s.data.moved?.includes(w.key) ? "☑" : "☐"} {w.connector}, pin {w.pin}
                {w.carries && ` (${w.carries})`} →{" "}
                {w.to ? `${w.to}${w.toPin ? `, pin ${w.toPin}` : ""}` : "by both pin lists"}
              </p>
            ))}
          {s.note && <p>Note: {s.note}</p>}
        </li>
      ))}
    </ol>
  );
}
