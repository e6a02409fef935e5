import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Select, TextInput } from "../form";
import { placeWords } from "../places";
import { useKitWords } from "./words";

type Test = Schemas["Test"];
type Selector = Schemas["Selector"];

const relationWords: Record<string, string> = {
  "": "anywhere on the machine",
  itself: "the part itself",
  "same place": "at the same place",
  "same head": "on the same head",
  "feeds it": "that feed it",
  "fed by it": "that it feeds",
  "carries it": "that carry it",
  "rides on it": "that ride on it",
};

/** The kinds of part with their traits, those of kinds that they are like among them. */
export function useKinds() {
  const sheet = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const kinds = (sheet.data?.catalogue.kinds ?? []).filter((k) => !k.superseded);
  const traitsOf = (key: string): Schemas["TraitDef"][] => {
    const kind = kinds.find((k) => k.key === key);
    if (!kind) return [];
    const own = kind.traits;
    const like = kind.like ? traitsOf(kind.like) : [];
    return [...own, ...like.filter((t) => !own.some((o) => o.name === t.name))];
  };
  return { kinds, traitsOf };
}

/** What a selector selects, in words: "every build surface, at the bed". */
export function selectorWords(of: Selector, kinds: readonly { key: string; label: string }[]) {
  const kind = kinds.find((k) => k.key === of.kind)?.label ?? of.kind;
  if (of.relation === "itself") return "the part itself";
  return [
    `${of.every ? "every" : "some"} ${kind.toLowerCase()}`,
    of.relation && relationWords[of.relation],
    of.at && `at ${placeWords(of.at)}`,
  ]
    .filter(Boolean)
    .join(" ");
}

/** Which parts are asked, seen from the one that needs something. */
export function SelectorFields({
  of,
  owner,
  onChange,
}: {
  of: Selector;
  /** The kind of the part that needs something; empty for a kit, which stands nowhere. */
  owner: string;
  onChange: (of: Selector) => void;
}) {
  const { kinds } = useKinds();
  const words = useKitWords();
  const itself = of.relation === "itself";
  return (
    <div className="flex flex-wrap items-center gap-2">
      {owner && (
        <Select
          aria-label="Where the parts are"
          className="max-w-60"
          value={of.relation ?? ""}
          onChange={(relation) =>
            onChange({
              ...of,
              relation: relation as Selector["relation"],
              kind: relation === "itself" ? owner : of.kind,
              every: relation === "itself" ? false : of.every,
            })
          }
          options={(words?.relations ?? []).map((r) => [r, relationWords[r] ?? r] as const)}
        />
      )}
      {!itself && (
        <>
          <Select
            aria-label="How many of them"
            className="max-w-40"
            value={of.every ? "every" : "some"}
            onChange={(q) => onChange({ ...of, every: q === "every" })}
            options={[
              ["every", "every"],
              ["some", "at least one"],
            ]}
          />
          <Select
            aria-label="Kind of part"
            className="max-w-56"
            value={of.kind}
            onChange={(kind) => onChange({ ...of, kind })}
            options={kinds.map((k) => [k.key, k.label] as const)}
          />
          <Select
            aria-label="Place"
            className="max-w-44"
            value={of.at ?? ""}
            onChange={(at) => onChange({ ...of, at })}
            empty="any place"
            options={(words?.places ?? []).map((p) => [p, placeWords(p)] as const)}
          />
        </>
      )}
    </div>
  );
}

/** The trait of the selected parts, and one of the part itself to compare it with. */
export function TraitOfParts({ test, onChange }: { test: Test; onChange: (t: Test) => void }) {
  const { traitsOf } = useKinds();
  return (
    <Select
      aria-label="Trait"
      className="max-w-64"
      value={test.trait}
      onChange={(trait) => onChange({ ...test, trait, values: [], own: undefined })}
      options={traitsOf(test.of?.kind ?? "").map(
        (t) => [t.name, t.name === "model" ? "there, or its model" : t.label] as const,
      )}
    />
  );
}

/** A comparison with a trait of the part itself instead of values. */
export function OwnField({ test, owner, onChange }: { test: Test; owner: string; onChange: (t: Test) => void }) {
  const { traitsOf } = useKinds();
  const asked = traitsOf(test.of?.kind ?? "").find((t) => t.name === test.trait);
  const own = traitsOf(owner).filter(
    (t) => t.name !== "model" && t.kind === asked?.kind && (t.unit ?? "") === (asked?.unit ?? ""),
  );
  if (!owner || own.length === 0 || !["equal", "at least", "at most"].includes(test.op)) return null;
  return (
    <Select
      aria-label="Compared with"
      className="max-w-64"
      value={test.own ?? ""}
      onChange={(name) => onChange({ ...test, own: name || undefined, values: name ? [] : test.values })}
      empty="than a value"
      options={own.map((t) => [t.name, `than its own ${t.label}`] as const)}
    />
  );
}

/** A trait's values as they are typed or chosen. */
export function ValueFields({
  test,
  unit,
  choices,
  count,
  onChange,
}: {
  test: Test;
  unit?: string;
  choices?: readonly string[];
  count: number;
  onChange: (t: Test) => void;
}) {
  const values = test.values ?? [];
  return Array.from({ length: count }, (_, i) =>
    choices?.length && test.op === "equal" ? (
      <Select
        // biome-ignore lint/suspicious/noArrayIndexKey: a value has no identity but its place
        key={i}
        aria-label={`Value ${i + 1}`}
        className="max-w-56"
        value={values[i] ?? ""}
        onChange={(v) => onChange({ ...test, values: [v] })}
        empty="Choose"
        options={[...choices]}
      />
    ) : (
      <TextInput
        // biome-ignore lint/suspicious/noArrayIndexKey: a value has no identity but its place
        key={i}
        aria-label={`Value ${i + 1}`}
        className="max-w-40"
        placeholder={test.op === "one of" ? "a; b; c" : (unit ?? "")}
        value={test.op === "one of" ? values.join("; ") : (values[i] ?? "")}
        onChange={(v) =>
          onChange({
            ...test,
            values:
              test.op === "one of"
                ? v.split(/\s*;\s*/)
                : Array.from({ length: count }, (_, k) => (k === i ? v : (values[k] ?? ""))),
          })
        }
      />
    ),
  );
}
