import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { Button, Fault } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Stated = Schemas["StatedOnRecord"];

const tones = { "as on record": "good", differs: "look", "not on record": "cond" } as const;
const keyOf = (s: Stated) => `${s.kind} ${s.subject}`;

/** What pasted settings state, beside the record: what is not on it can be recorded after a look. */
export function Pasted({ order, pasted }: { order: number; pasted: Schemas["PastedSettings"] }) {
  const missing = pasted.stated.filter((s) => s.is === "not on record");
  const [chosen, setChosen] = useState<readonly string[]>(missing.map(keyOf));
  const { write, busy, fault } = useWrite();
  const values = missing.filter((s) => chosen.includes(keyOf(s))).map(({ kind, subject }) => ({ kind, subject }));
  return (
    <section aria-label="Read in the settings" className="mt-3 border-2 border-line bg-leaf px-4 py-3">
      <h3 className="text-xl font-bold">Read in it</h3>
      <ul>
        {pasted.stated.map((s) => (
          <li key={keyOf(s)} className="flex flex-wrap items-center gap-x-4 border-b border-rule py-1">
            {s.is === "not on record" && (
              <input
                type="checkbox"
                className="size-6 accent-accent"
                aria-label={`Record ${s.title}`}
                checked={chosen.includes(keyOf(s))}
                onChange={(e) =>
                  setChosen(e.target.checked ? [...chosen, keyOf(s)] : chosen.filter((key) => key !== keyOf(s)))
                }
              />
            )}
            <span>
              <b>{s.title}</b> <span className="font-mono">{s.value}</span>{" "}
              <span className="text-dim">
                {s.word}, line {s.line}
              </span>
            </span>
            <State tone={tones[s.is]}>
              {s.is}
              {s.is === "differs" && `: there it is ${s.onRecord}`}
            </State>
            {s.settle && <span className="w-full text-sm">{s.settle}</span>}
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      {missing.length > 0 && (
        <Button
          className="mt-3"
          disabled={busy || values.length === 0}
          onClick={() =>
            write(
              () => unwrap(api.POST("/api/work/{id}/pasted", { params: { path: { id: order } }, body: { values } })),
              () => toast(`${values.length} ${values.length === 1 ? "value is" : "values are"} on record`),
            )
          }
        >
          Record {values.length} {values.length === 1 ? "value" : "values"}
        </Button>
      )}
    </section>
  );
}
