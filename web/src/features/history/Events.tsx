import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Who } from "../../ui/Who";

export const kinds: [string, readonly string[]][] = [
  ["Parts and builds", ["part", "build", "register"]],
  ["Readings", ["reading", "set aside"]],
  ["Work", ["work", "labour"]],
  ["Calibrations and maintenance", ["calibration", "maintenance"]],
  ["Faults and use", ["fault", "use"]],
];

const marks: Record<string, string> = {
  part: "▣",
  build: "▤",
  register: "◎",
  reading: "·",
  "set aside": "×",
  work: "⚒",
  labour: "◷",
  calibration: "⊹",
  maintenance: "⟳",
  fault: "✖",
  use: "▲",
};

export function Events({ list }: { list: readonly Schemas["Event"][] }) {
  if (list.length === 0) return <p className="text-dim">Nothing of this is on record.</p>;
  let day = "";
  return (
    <ol className="bg-leaf">
      {list.map((e) => {
        const here = showDay(e.at);
        const fresh = here !== day;
        day = here;
        return (
          <li
            key={[e.at, e.kind, e.slot, e.title, e.text].join()}
            className="grid grid-cols-[7rem_1.5rem_minmax(0,1fr)] gap-x-2 border-b border-rule px-3 py-1.5"
          >
            <span className={fresh ? "font-semibold" : "sr-only"}>{here}</span>
            {!fresh && <span />}
            <span aria-hidden="true" className={e.kind === "fault" ? "text-bad" : "text-dim"}>
              {marks[e.kind] ?? "·"}
            </span>
            <span className="min-w-0">
              <b>
                {e.slot ? `${e.slot}: ` : ""}
                {e.kind === "reading" ? "recorded" : e.kind === "part" || e.kind === "build" ? "" : `${e.kind}: `}
                {e.kind === "reading" ? "" : e.title}
              </b>{" "}
              {e.text && <span className="break-words">{e.text}</span>}{" "}
              <span className="text-sm text-dim">
                <Who name={e.by ?? ""} words />
                {e.order ? (
                  <Link className="ml-2 underline" to={`/work/${e.order}`}>
                    order {e.order}
                  </Link>
                ) : null}
                {e.part && e.kind === "part" ? (
                  <Link className="ml-2 underline" to={`/part/${e.part}`}>
                    the part
                  </Link>
                ) : null}
              </span>
            </span>
          </li>
        );
      })}
    </ol>
  );
}
