import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { link, Section } from "./Section";

const marks: Record<string, string> = {
  danger: "✖",
  up: "●",
  floor: "✕",
  risk: "▲",
  booking: "▲",
  blocked: "◆",
  parked: "◆",
};

/** How the fleet stands: one line and one action each. */
export function State({ lines }: { lines: readonly Schemas["StateLine"][] }) {
  return (
    <Section title="How the fleet stands" more={null}>
      <ul className="bg-leaf">
        {lines.map((l) => (
          <li
            key={l.words}
            className={`flex flex-wrap items-center justify-between gap-x-4 border-b border-rule px-3 py-1 ${l.grave ? "border-l-4 border-l-bad" : ""}`}
          >
            <span className="min-w-48 flex-1">
              <span aria-hidden="true" className={l.grave ? "text-bad" : "text-dim"}>
                {marks[l.about]}{" "}
              </span>
              {l.words}
            </span>
            <Link className={link} to={l.link}>
              {l.action}
            </Link>
          </li>
        ))}
      </ul>
    </Section>
  );
}
