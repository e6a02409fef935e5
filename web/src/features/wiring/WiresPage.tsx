import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Cautions, TextInput } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { Headers } from "./Headers";
import { WireEditor } from "./WireEditor";

/** What hangs on which pin, per machine and head; and the motors' re-pinning. */
export default function WiresPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.wires(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/wires", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the wire sheets">
      {(w) => <Sheets id={id} wiring={w} />}
    </Loaded>
  );
}

function Sheets({ id, wiring: w }: { id: number; wiring: Schemas["Wiring"] }) {
  const mayWork = useMayWork();
  const [asked, setAsked] = useSearchParams();
  const head = asked.get("head") ?? "";
  const [editing, setEditing] = useState(false);
  const [name, setName] = useState("");
  const sheet = w.sheets.find((s) => s.head === head);
  const to = (h: string) => {
    setEditing(false);
    setAsked(h ? { head: h } : {}, { replace: true });
  };
  const heads = [...new Set(["", ...w.sheets.map((s) => s.head), head])];
  return (
    <Page
      title={`${w.machine}: wire sheet${head ? `, ${head}` : ""}`}
      lead={sheet ? `Version ${sheet.version}, ${sheet.changedBy}, ${showDay(sheet.changedAt)}` : "Not written yet"}
      actions={
        <>
          <LinkButton to={`/machine/${id}`}>Sheet</LinkButton>
          {mayWork && !editing && (
            <Button main onClick={() => setEditing(true)}>
              {sheet ? "Edit" : "Write it"}
            </Button>
          )}
          <Button onClick={() => print()}>Print</Button>
        </>
      }
    >
      <div className="no-print mb-5 flex flex-wrap items-center gap-2">
        {heads.map((h) => (
          <Button key={h} main={h === head} aria-pressed={h === head} onClick={() => to(h)}>
            {h || "The machine"}
          </Button>
        ))}
        {mayWork && (
          <form
            className="flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              to(name.trim());
              setName("");
            }}
          >
            <TextInput
              aria-label="Another head"
              placeholder="Another head"
              className="w-40"
              value={name}
              onChange={setName}
            />
            <Button type="submit" disabled={!name.trim()}>
              Add
            </Button>
          </form>
        )}
      </div>
      <div className="mb-5 max-w-4xl">
        <Cautions
          list={[
            "Power off and mains plug out before any plug is touched: plugging a motor under power kills its driver.",
            "Mains wiring, the bed's relay and its earth are for a licensed electrician, or as local rules require.",
          ]}
        />
      </div>
      {editing ? (
        <WireEditor
          id={id}
          head={head}
          sheet={sheet}
          ports={w.ports}
          volts={w.volts}
          onDone={() => setEditing(false)}
        />
      ) : sheet ? (
        <SheetView view={sheet} />
      ) : (
        <Empty title="No wire sheet is written for this.">
          <p>
            Colours differ between heads: label both ends and write each pin down once. The{" "}
            <Link className="underline" to={`/machine/${id}`}>
              machine's sheet
            </Link>{" "}
            says which board it has.
          </p>
        </Empty>
      )}
    </Page>
  );
}

const columns = [
  "Connector",
  "Way",
  "Carries",
  "Board end",
  "Far end",
  "Label",
  "Polarity",
  "Contact",
  "Gauge",
  "Current",
];

function SheetView({ view }: { view: Schemas["WireSheetView"] }) {
  const { wires } = view.sheet;
  return (
    <>
      {wires.length > 0 && (
        <div className="relative overflow-x-auto bg-leaf">
          <table className="w-full border-collapse text-left">
            <thead className="border-b-2 border-line bg-wall">
              <tr>
                {columns.map((c) => (
                  <th key={c} scope="col" className="px-3 py-2">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {wires.map((w, i) => {
                const said = view.findings.filter((f) => f.wire === i);
                const first = wires[i - 1]?.connector !== w.connector;
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a way can be there twice, which is said
                  <tr key={i} className={`align-top ${first ? "border-t-2 border-line" : "border-t border-rule"}`}>
                    <th scope="row" className="px-3 py-1.5">
                      {first ? w.connector : <span className="sr-only">{w.connector}</span>}
                    </th>
                    <td className="px-3 py-1.5 font-mono text-lg font-bold">{w.way}</td>
                    <td className="px-3 py-1.5">{w.carries}</td>
                    <td className="px-3 py-1.5">{w.colourBoard}</td>
                    <td className="px-3 py-1.5">{w.colourFar}</td>
                    <td className="px-3 py-1.5 font-mono">{w.label}</td>
                    <td className="px-3 py-1.5">{w.polarity}</td>
                    <td className="px-3 py-1.5 whitespace-nowrap">{w.contactAmps ? `${w.contactAmps} A` : ""}</td>
                    <td className="px-3 py-1.5">{w.awg || ""}</td>
                    <td className="px-3 py-1.5">
                      {said.map((f) => (
                        <span key={f.sentence} className="block" title={f.arithmetic}>
                          <State tone={f.bad ? "bad" : f.arithmetic ? "good" : "look"}>{f.sentence}</State>
                          {f.arithmetic && <span className="block text-sm text-dim">{f.arithmetic}</span>}
                        </span>
                      ))}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {view.motorsJudged.length > 0 && (
        <section aria-labelledby="motors" className="mt-8">
          <h2 id="motors" className="mb-3 text-2xl font-bold">
            Motors
          </h2>
          <div className="grid gap-6 lg:grid-cols-2">
            {view.motorsJudged.map((m) => (
              <section key={m.name} className="break-inside-avoid bg-leaf px-4 py-3" aria-label={m.name}>
                <h3 className="text-xl font-bold">{m.name}</h3>
                <Headers judged={m} />
              </section>
            ))}
          </div>
        </section>
      )}
    </>
  );
}
