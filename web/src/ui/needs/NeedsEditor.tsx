import type { Schemas } from "../../api/client";
import { keyOf } from "../catalogueKeys";
import { useAskable } from "../fleet/question";
import { Button } from "../form";
import { NeedEditor } from "./NeedEditor";

type Need = Schemas["Need"];
type Requirement = Schemas["Requirement"];

/** What a part needs as long as it is fitted: each need by itself, with where it holds. */
export function NeedsEditor({
  needs,
  inherited,
  kind,
  onChange,
}: {
  needs: readonly Need[];
  /** Needs of what it is based on, and of its kind: each can be dropped or replaced. */
  inherited: readonly { need: Need; from: string }[];
  /** The kind of the part that needs something. */
  kind: string;
  onChange: (needs: Need[]) => void;
}) {
  const columns = useAskable().data?.columns.filter((c) => c.slot) ?? [];
  const blank: Requirement = {
    label: "",
    test: { of: { kind: "surface", every: true }, trait: "model", op: "present", values: [], least: "marked" },
  };
  const put = (i: number, n: Need) => onChange(needs.map((x, k) => (k === i ? n : x)));
  const others = inherited.filter((h) => !needs.some((n) => n.key === h.need.key));
  return (
    <fieldset className="space-y-3 border-2 border-line px-4 py-3">
      <legend className="px-1 font-semibold">What it needs as long as it is fitted</legend>
      {others.map((h) => (
        <p key={h.need.key} className="flex flex-wrap items-center justify-between gap-3 border-b border-rule pb-2">
          <span>
            {h.need.that.label} <span className="text-dim">from {h.from}</span>
          </span>
          <span className="flex gap-2">
            <Button onClick={() => onChange([...needs, { ...h.need }])}>Replace</Button>
            <Button danger onClick={() => onChange([...needs, { ...h.need, drop: true }])}>
              Remove
            </Button>
          </span>
        </p>
      ))}
      {needs.map((n, i) =>
        n.drop ? (
          <p
            // biome-ignore lint/suspicious/noArrayIndexKey: a need has no identity but its place
            key={i}
            className="flex flex-wrap items-center justify-between gap-3 border-b border-rule pb-2"
          >
            <span>
              Dropped: <s>{n.that.label}</s>
            </span>
            <Button
              onClick={() =>
                inherited.some((h) => h.need.key === n.key)
                  ? onChange(needs.filter((_, k) => k !== i))
                  : put(i, { ...n, drop: undefined })
              }
            >
              Take up again
            </Button>
          </p>
        ) : (
          // biome-ignore lint/suspicious/noArrayIndexKey: a need has no identity but its place
          <div key={i} className="space-y-2">
            <NeedEditor
              need={n.that}
              owner={kind}
              columns={columns}
              onChange={(that) => put(i, { ...n, that, key: n.key || keyOf(that.label).slice(0, 36) })}
              onDrop={() => (n.that.label ? put(i, { ...n, drop: true }) : onChange(needs.filter((_, k) => k !== i)))}
            />
            {n.when ? (
              <div className="pl-4">
                <p className="font-semibold">Needed only where:</p>
                <NeedEditor
                  need={n.when}
                  owner={kind}
                  columns={columns}
                  onChange={(when) => put(i, { ...n, when })}
                  onDrop={() => put(i, { ...n, when: undefined })}
                />
              </div>
            ) : (
              <Button
                className="ml-4"
                onClick={() =>
                  put(i, {
                    ...n,
                    when: {
                      label: "",
                      test: {
                        of: { kind, relation: "itself" },
                        trait: "model",
                        op: "known",
                        values: [],
                        least: "marked",
                      },
                    },
                  })
                }
              >
                Only where …
              </Button>
            )}
          </div>
        ),
      )}
      <Button disabled={!kind} onClick={() => onChange([...needs, { key: `need-${needs.length + 1}`, that: blank }])}>
        Add a need
      </Button>
    </fieldset>
  );
}
