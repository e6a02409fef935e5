import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { gradeWords } from "../badges";
import type { Column } from "../fleet/question";
import { groupOf, groupWords, type Need, type Test } from "./needKinds";
import { selectorWords, useKinds } from "./SelectorFields";

export const grades = gradeWords.map(([g]) => g);

/** A need as it is read: what is compared with what, and from which evidence on it decides. */
export function Sentence({ need, columns }: { need: Need; columns: Column[] }) {
  const group = groupOf(need);
  if (group) return <>{groupWords[group]}:</>;
  if (need.test?.of) return <PartsSentence test={need.test} />;
  if (need.test) {
    const { slot, trait, op, values, least } = need.test;
    const column = columns.find((c) => c.key === (trait === "model" ? slot : `${slot}.${trait}`));
    const said = (values ?? []).join(op === "between" ? " and " : ", ");
    return (
      <>
        {[column?.label ?? `${slot}.${trait}`, op, said, said && column?.unit].filter(Boolean).join(" ")}
        <Least grade={least} />
      </>
    );
  }
  if (need.formula)
    return (
      <>
        {need.formula.of && <OfWords of={need.formula.of} />}
        {inWords(need.formula.text, columns)}
        <Least grade={need.formula.least} />
      </>
    );
  if (need.further)
    return (
      <>
        with {need.further.title || "an additional change"}, price {need.further.price}, {need.further.minutes} min
      </>
    );
  return <KitSentence kit={need.kit} />;
}

export const useKits = () => useQuery({ queryKey: keys.kits(), queryFn: () => unwrap(api.GET("/api/kits")) });

function KitSentence({ kit }: { kit?: Schemas["KitRef"] }) {
  const kits = useKits();
  if (!kit?.key) return <>another kit, to be chosen</>;
  return <>the kit {kits.data?.find((k) => k.key === kit.key)?.name ?? kit.key} is fitted</>;
}

/** A comparison with the names of its facts, and the signs as they are written by hand. */
function inWords(formula: string, columns: Column[]) {
  return formula
    .replace(/[a-z][a-z0-9-]*\.[a-z][a-z0-9-]*/g, (key) => columns.find((c) => c.key === key)?.label ?? key)
    .replace(/\s*\*\s*/g, " × ")
    .replace(/\s\/\s/g, " ÷ ")
    .replace(/\s-\s/g, " − ")
    .replace(/<=/g, "≤")
    .replace(/>=/g, "≥");
}

function Least({ grade }: { grade: string }) {
  return grade === "claimed" ? null : <>, {grade} at least</>;
}

/** A fact of selected parts in words. */
function PartsSentence({ test }: { test: Test }) {
  const { kinds, traitsOf } = useKinds();
  if (!test.of) return null;
  const asked = traitsOf(test.of.kind).find((t) => t.name === test.trait);
  const said = (test.values ?? []).join(test.op === "between" ? " and " : ", ");
  return (
    <>
      {[
        `${selectorWords(test.of, kinds)}:`,
        test.trait === "model" && (test.op === "present" || test.op === "absent") ? "" : (asked?.label ?? test.trait),
        test.op,
        test.own ? `its own ${test.own}` : said,
        said && asked?.unit,
      ]
        .filter(Boolean)
        .join(" ")}
      <Least grade={test.least} />
    </>
  );
}

function OfWords({ of }: { of: Schemas["Selector"] }) {
  const { kinds } = useKinds();
  return <>{selectorWords(of, kinds)}: </>;
}
