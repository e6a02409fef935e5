import type { Schemas } from "../../api/client";

export type Wire = Schemas["Wire"];

type Word = "connector" | "carries" | "colourBoard" | "colourFar" | "label" | "polarity";

type Count = "way" | "contactAmps" | "awg" | "volts" | "watts" | "metres";

export type Draft = Record<Word, string> & Partial<Record<Count, number>>;

export const fields: ([Word, string, string] | [Count, string, string, string])[] = [
  ["connector", "Connector", "w-32"],
  ["way", "Pin", "w-16", ""],
  ["carries", "Carries", "w-44"],
  ["colourBoard", "Board end", "w-28"],
  ["colourFar", "Far end", "w-28"],
  ["label", "Label", "w-24"],
  ["contactAmps", "Contact, A", "w-20", "A"],
  ["awg", "Gauge", "w-16", "AWG"],
  ["volts", "V", "w-16", "V"],
  ["watts", "W", "w-16", "W"],
  ["metres", "m", "w-16", "m"],
];

export function draftOf(w: Partial<Wire>): Draft {
  return {
    connector: w.connector ?? "",
    carries: w.carries ?? "",
    colourBoard: w.colourBoard ?? "",
    colourFar: w.colourFar ?? "",
    label: w.label ?? "",
    polarity: w.polarity ?? "",
    way: w.way || undefined,
    contactAmps: w.contactAmps || undefined,
    awg: w.awg || undefined,
    volts: w.volts || undefined,
    watts: w.watts || undefined,
    metres: w.metres || undefined,
  };
}

export function wireOf(d: Draft): Wire {
  return { ...d, way: d.way ?? 0, polarity: d.polarity as Wire["polarity"] };
}

/** The line after the last one: the next pin of the same connector. */
export function nextWire(last: Draft | undefined, volts?: number): Partial<Wire> {
  return { connector: last?.connector ?? "", way: (last?.way ?? 0) + 1, volts: last?.volts || volts || 0 };
}

/** A line for each pin of a port. */
export function wiresOf(port: Schemas["Port"], volts?: number): Draft[] {
  return Array.from({ length: port.ways }, (_, i) =>
    draftOf({
      connector: port.name,
      way: i + 1,
      carries: port.pins?.[i] ?? "",
      contactAmps: port.amperes ?? 0,
      volts: volts ?? 0,
    }),
  );
}
