import type { Schemas } from "../../api/client";

type Check = Schemas["DeliveryCheck"];

/** How a trait was found: not looked at, as advertised, or otherwise. */
export type Found = { how: "" | "same" | "differs"; value: string; grade: "marked" | "observed" | "proven" };

export type ReceiveDraft = {
  found: Record<string, Found>;
  outcome: "" | "wrong" | "damaged" | "missing";
  note: string;
  returnBy: string;
  replaces: string;
  lot: string;
  slip: string;
  tag: string;
  serial: string;
  shelf: string;
  forMachine: string;
  cameOn: string;
};

export const notLooked: Found = { how: "", value: "", grade: "observed" };

/** What a thing of a line starts with: for the first of its machines that nothing lies ready for. */
export function startOf(order: Schemas["PurchaseSheet"], line: Schemas["PurchaseLine"]): ReceiveDraft {
  const before = order.arrivals.find((a) => a.lineId === line.id);
  const next = line.machines[order.arrivals.filter((a) => a.lineId === line.id && a.partId).length];
  return {
    found: {},
    outcome: "",
    note: "",
    returnBy: "",
    replaces: "",
    lot: before?.lot ?? "",
    slip: before?.slip ?? "",
    tag: "",
    serial: "",
    shelf: "",
    forMachine: next ? String(next) : "",
    cameOn: "",
  };
}

/** What is sent of a draft. */
export function receivedOf(d: ReceiveDraft, checks: readonly Check[]) {
  const findings = checks.flatMap((c) => {
    const f = d.found[c.trait] ?? notLooked;
    const found = f.how === "same" ? c.advertised : f.how === "differs" ? f.value : "";
    if (!found) return [];
    return [{ trait: c.trait, advertised: c.advertised, found, grade: f.grade }];
  });
  return {
    findings,
    outcome: d.outcome,
    note: d.note,
    returnBy: d.returnBy,
    replaces: d.replaces ? Number(d.replaces) : undefined,
    lot: d.lot,
    slip: d.slip,
    tag: d.tag,
    serial: d.serial,
    shelf: d.shelf,
    forMachine: d.forMachine ? Number(d.forMachine) : undefined,
    cameOn: d.cameOn,
  };
}
