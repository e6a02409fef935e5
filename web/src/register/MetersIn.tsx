import { useState } from "react";
import { api, type Schemas, take } from "../api/client";
import { Button, Fault } from "../parts/form";
import { State } from "../parts/marks";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";
import { FileField } from "./FileField";
import { bytesOf, MAX_BYTES } from "./file";

/** Meter readings: machine, date, hours. */
export function MetersIn() {
  const [file, setFile] = useState("");
  const [name, setName] = useState("");
  const [plan, setPlan] = useState<Schemas["MeterPlan"]>();
  const { write, busy, fault } = useWrite();
  return (
    <div className="space-y-5">
      <FileField
        label={busy ? "Reading the file …" : "Choose or drop the CSV of meter readings"}
        hint="Columns machine, date (2026-03-01), hours"
        most={MAX_BYTES}
        onFile={async (chosen) => {
          const bytes = await bytesOf(chosen);
          setName(chosen.name);
          setFile(bytes);
          setPlan(undefined);
          write(() => take(api.POST("/api/meters/preview", { body: { file: bytes } })), setPlan);
        }}
      />
      <Fault text={fault} />
      {plan && (
        <section>
          <h2 className="text-2xl font-bold">{name}</h2>
          <p className="text-lg">
            {plan.rows.length} readings new, {plan.same} known already, {plan.faults.length} faulty
          </p>
          <ul className="my-3">
            {plan.faults.slice(0, 300).map((f) => (
              <li key={`${f.line}-${f.column}`} className="border-b border-rule py-1">
                line {f.line}, <State tone="bad">{f.heading}</State> <span className="font-mono">{f.value}</span>:{" "}
                {f.problem}
              </li>
            ))}
          </ul>
          <Button
            main
            disabled={busy || plan.faults.length > 0 || plan.rows.length === 0}
            onClick={() =>
              write(
                () => take(api.POST("/api/meters/bring-in", { body: { file } })),
                (done) => {
                  say(`${done.rows.length} meter readings brought in`);
                  setPlan(undefined);
                },
              )
            }
          >
            Bring in {plan.rows.length} readings
          </Button>
          {plan.faults.length > 0 && <p className="mt-2">Mend the faults in the file, then choose it again.</p>}
        </section>
      )}
    </div>
  );
}
