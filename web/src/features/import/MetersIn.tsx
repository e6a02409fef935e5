import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Fault, Select } from "../../ui/form";
import { upload } from "../../ui/post";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { FileField } from "./FileField";
import { MAX_BYTES } from "./file";
import { Questions } from "./Questions";

const targets = [
  ["name", "Machine"],
  ["hours", "Hours, as the meter shows"],
  ["filament", "Filament, m"],
  ["prints", "Prints"],
  ["hours-on", "Day on which they were read"],
] as const;

type Said = Pick<Schemas["RegisterFile"], "mapping" | "decimals" | "dateOrder">;

/** Meter readings: machine, day, hours, however they are headed. Rows without a fault are taken, whatever others have. */
export function MetersIn() {
  const [file, setFile] = useState({ name: "", sha256: "" });
  const [said, setSaid] = useState<Said>({});
  const [plan, setPlan] = useState<Schemas["MeterPlan"]>();
  const { write, busy, fault } = useWrite();
  const preview = (from: typeof file, next: Said) => {
    setSaid(next);
    write(() => unwrap(api.POST("/api/meters/preview", { body: { ...from, ...next } })), setPlan);
  };
  const mapping = said.mapping ?? plan?.columns.map((c) => c.target) ?? [];
  return (
    <div className="space-y-5">
      <FileField
        label={busy ? "Reading the file …" : "Choose or drop the CSV of meter readings"}
        hint="A column with the machine, one with the hours, the filament or the prints, one with the day; without it, they were read today"
        most={MAX_BYTES}
        onFile={(chosen) =>
          write(
            () => upload(chosen),
            (sha256) => {
              const next = { name: chosen.name, sha256 };
              setFile(next);
              setPlan(undefined);
              preview(next, {});
            },
          )
        }
      />
      <Fault text={fault} />
      {plan && (
        <section className="space-y-4">
          <h2 className="text-2xl font-bold">{file.name}</h2>
          <div className="flex flex-wrap gap-4">
            {plan.columns.map((c, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: columns have no other identity
              <div key={i} className="w-64">
                <b>{c.heading || `column ${i + 1}`}</b>
                <Select
                  aria-label={`Column ${c.heading} is`}
                  value={mapping[i] ?? ""}
                  options={targets}
                  empty="(left out)"
                  onChange={(t) =>
                    preview(file, { ...said, mapping: plan.columns.map((_, k) => (k === i ? t : (mapping[k] ?? ""))) })
                  }
                />
              </div>
            ))}
          </div>
          <Questions
            questions={plan.questions}
            busy={busy}
            onAnswer={(q, value) => {
              if (q.about === "dates") return preview(file, { ...said, dateOrder: value as Said["dateOrder"] });
              const decimals = plan.columns.map((_, k) => (k === q.column ? value : (said.decimals?.[k] ?? "")));
              preview(file, { ...said, decimals });
            }}
          />
          <p className="text-lg">
            {plan.rows.length} readings new, {plan.same} known already, {plan.faults.length} faulty
          </p>
          {plan.faults.length > 0 && (
            <div className="border-l-4 border-look bg-look-wash px-4 py-2">
              <b>These rows are not imported:</b>
              <ul>
                {plan.faults.slice(0, 300).map((f) => (
                  <li key={`${f.line}-${f.column}`} className="border-b border-rule py-1">
                    line {f.line}, <State tone="bad">{f.heading}</State> <span className="font-mono">{f.value}</span>:{" "}
                    {f.problem}
                  </li>
                ))}
              </ul>
            </div>
          )}
          <ul className="columns-2 gap-6">
            {plan.rows.slice(0, 100).map((r) => (
              <li key={`${r.line} ${r.unit}`}>
                <b>{r.name}</b> {r.amount} {r.unit} on {showDay(r.day)}
              </li>
            ))}
          </ul>
          <Button
            main
            disabled={busy || plan.rows.length === 0 || plan.questions.length > 0}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/meters/import", { body: { ...file, ...said } })),
                (done) => {
                  toast(`${done.rows.length} meter readings imported`);
                  setPlan(undefined);
                },
              )
            }
          >
            Import {plan.rows.length} readings
          </Button>
        </section>
      )}
    </div>
  );
}
