import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, type FaultText, Field, TextInput } from "../form";
import { faultOf } from "../write";

/** Tells a temperature sensor from its resistance at two temperatures. */
export function SensorHelp({ choose }: { choose: (type: string) => void }) {
  const [ohms, setOhms] = useState<[string, string]>(["", ""]);
  const [celsius, setCelsius] = useState<[string, string]>(["", ""]);
  const [finding, setFinding] = useState<Schemas["SensorFinding"]>();
  const [fault, setFault] = useState<FaultText>("");
  async function work() {
    setFault("");
    try {
      const f = await unwrap(api.POST("/api/bench/sensor", { body: { ohms, celsius } }));
      setFinding(f);
      if (f.type) choose(f.type);
    } catch (error) {
      setFinding(undefined);
      setFault(faultOf(error));
    }
  }
  const put = (list: [string, string], i: number, v: string): [string, string] =>
    i === 0 ? [v, list[1]] : [list[0], v];
  return (
    <fieldset className="border-2 border-line px-3 py-2">
      <legend className="px-1 font-semibold">From two measurements</legend>
      <p className="mb-2 text-dim">
        Unplugged, at room temperature and warmed by at least 15 °C (a cup of hot water in a bag).
      </p>
      {[0, 1].map((i) => (
        <div key={i} className="mb-2 grid grid-cols-2 gap-3">
          <Field label={i === 0 ? "Cold: Ω" : "Warm: Ω"} htmlFor={`sensor-ohms-${i}`}>
            <TextInput
              id={`sensor-ohms-${i}`}
              placeholder={i === 0 ? "108.6 or 98.7 kΩ" : ""}
              value={ohms[i] ?? ""}
              onChange={(v) => setOhms(put(ohms, i, v))}
            />
          </Field>
          <Field label={i === 0 ? "Cold: °C" : "Warm: °C"} htmlFor={`sensor-celsius-${i}`}>
            <TextInput
              id={`sensor-celsius-${i}`}
              inputMode="decimal"
              value={celsius[i] ?? ""}
              onChange={(v) => setCelsius(put(celsius, i, v))}
            />
          </Field>
        </div>
      ))}
      <Button onClick={work} disabled={[...ohms, ...celsius].some((t) => !t.trim())}>
        Which sensor is it?
      </Button>
      <Fault text={fault} />
      {finding && (
        <div className="mt-2" aria-live="polite">
          <p className="text-lg font-bold">{finding.sentence}</p>
          <p className="text-sm text-dim">{finding.arithmetic}</p>
          {finding.wrong.map((w) => (
            <p key={w.believes} className={w.hotter || w.runsAway ? "font-semibold text-bad" : ""}>
              A build that believes in a {w.believes} shows {w.shows} °C at a true 200 °C
              {w.runsAway
                ? ", and less the hotter it gets: it heats on until a protection trips. Do not heat."
                : w.hotter
                  ? `: ${w.hotter} °C hotter than shown. Fire and fumes: do not heat.`
                  : "."}
            </p>
          ))}
        </div>
      )}
    </fieldset>
  );
}
