import { useRef, useState } from "react";
import { ApiError, api, type Schemas, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

export type Said = Pick<
  Schemas["RegisterFile"],
  "headingLine" | "headingLines" | "mapping" | "corrections" | "leaveOut" | "accepted" | "decimals" | "dateOrder"
>;

type Kept = {
  name: string;
  sha256: string;
  said: Said;
  opened?: Schemas["Opened"];
  understood?: Schemas["UnderstoodFile"];
  plan?: Schemas["Plan"];
};

const nothing: Kept = { name: "", sha256: "", said: {} };

/** A register on its way in: what was sent and said of it so far, and the steps that take it further. */
export function useRegisterFile() {
  const [kept, setKept, clear] = useDraft<Kept>("register", nothing);
  const [result, setResult] = useState<Schemas["Plan"]>();
  const { write, busy, fault, setFault } = useWrite();
  const { said } = kept;
  const looks = useRef(0); // an answer to what was said before it was said otherwise is not taken
  const body = (s: Said) => ({ sha256: kept.sha256, name: kept.name, ...s });

  function open(name: string, sent: () => Promise<string>, layout: Said) {
    setResult(undefined);
    write(
      async () => {
        const sha256 = await sent();
        const opened = await unwrap(api.POST("/api/register/open", { body: { sha256, ...layout } }));
        const mapping = opened.columns.map((c) => c.target);
        const said: Said = { ...layout, mapping };
        // A file without a column of names is shown all the same; which it is has to be chosen.
        const understood = mapping.includes("name")
          ? await unwrap(api.POST("/api/register/understand", { body: { sha256, ...said } }))
          : undefined;
        return { name, sha256, said, opened, understood };
      },
      (next) => setKept(next),
    );
  }
  /** Looks again how the cells are read, after something was said otherwise. */
  function decide(change: Said) {
    const next = { ...said, ...change };
    const look = ++looks.current;
    setKept({ ...kept, said: next, plan: undefined });
    write(
      () => unwrap(api.POST("/api/register/understand", { body: body(next) })),
      (understood) => look === looks.current && setKept({ ...kept, said: next, understood, plan: undefined }),
    );
  }
  function preview(change: Said) {
    const next = { ...said, ...change };
    setKept({ ...kept, said: next });
    write(
      () => unwrap(api.POST("/api/register/preview", { body: body(next) })),
      (plan) => setKept({ ...kept, said: next, plan }),
    );
  }
  async function importIt() {
    let stale = false;
    await write(
      () =>
        unwrap(
          api.POST("/api/register/import", { body: { ...body(said), fingerprint: kept.plan?.fingerprint } }),
        ).catch((e) => {
          stale = e instanceof ApiError && e.status === 409;
          throw e;
        }),
      (done) => {
        setResult(done);
        clear();
        toast("Imported");
      },
    );
    if (stale) preview({});
  }
  function answer(q: Schemas["FileQuestion"], value: string) {
    if (q.about === "dates") return decide({ dateOrder: value as Said["dateOrder"] });
    const decimals = [...(said.decimals ?? [])];
    while (decimals.length <= q.column) decimals.push("");
    decimals[q.column] = value;
    decide({ decimals });
  }
  return {
    kept,
    result,
    busy,
    fault,
    open,
    decide,
    preview,
    importIt,
    answer,
    another: () => {
      clear();
      setResult(undefined);
      setFault("");
    },
  };
}
