import { useState } from "react";
import { api, type Schemas, unwrap } from "../api/client";
import { Button, Check, Fault, type FaultText, Field, TextInput } from "./form";
import { type FormProps, StoreField, Text } from "./StepForm";
import { Timer } from "./Timer";
import { faultOf } from "./write";

type Round = Schemas["ZOffsetRound"];

/** Gap seen → next offset, or how far the endstop is moved where there is no probe, until paper is
 * lightly pinched; every round is kept. */
export function ZOffsetLoop({
  family,
  stores,
  endstop,
  ...p
}: FormProps & { family?: string; stores?: readonly string[]; endstop?: boolean }) {
  const { data, onChange, idPrefix } = p;
  const rounds: Round[] = data.rounds ?? [];
  const last = rounds.at(-1);
  const inForce = last ? String(last.next) : endstop ? "" : (data.startOffset ?? "");
  const [homed, setHomed] = useState(false);
  const [fault, setFault] = useState<FaultText>("");
  const [lines, setLines] = useState<string[]>([]);
  async function round(pinched: boolean) {
    setFault("");
    try {
      const answer = await unwrap(
        api.POST("/api/bench/z-offset", {
          body: { offset: inForce || "0", gap: data.gap ?? "", pinched, family, endstop },
        }),
      );
      setLines(answer.lines);
      setHomed(false);
      onChange({ ...data, startOffset: data.startOffset || "0", gap: "", rounds: [...rounds, answer.round] });
    } catch (error) {
      setFault(faultOf(error));
    }
  }
  const ended = last?.pinched ?? false;
  return (
    <div className="space-y-4">
      <div className="grid gap-4 sm:grid-cols-3">
        <Text
          {...p}
          name="bedTemperature"
          label="Bed, °C"
          numeric
          hint="As when printing; 60 for the common material"
        />
        <Text {...p} name="soakMinutes" label="Waited, minutes" numeric />
        {!endstop && (
          <Text {...p} name="startOffset" label="Offset to begin with, mm" numeric hint="0 for a new probe" />
        )}
      </div>
      <Timer place={`soak-${idPrefix}`} seconds={300} what="the bed warms through" />
      {rounds.length > 0 && (
        <table className="w-full border-collapse font-mono text-lg">
          <caption className="sr-only">Rounds so far</caption>
          <thead className="border-b-2 border-line text-left font-sans text-base">
            <tr>
              <th scope="col" className="pr-4 align-bottom">
                Round
              </th>
              <th scope="col" className="pr-4 align-bottom">
                {endstop ? "Endstop moved, mm" : "Offset, mm"}
              </th>
              <th scope="col" className="pr-4 align-bottom">
                Gap seen, mm
              </th>
              <th scope="col" className="pr-4 align-bottom">
                What follows
              </th>
            </tr>
          </thead>
          <tbody>
            {rounds.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rounds are only ever appended
              <tr key={i} className="border-b border-rule">
                <td>{i + 1}</td>
                <td>{mm(r.offset)}</td>
                <td>{r.pinched ? "paper" : mm(r.gap)}</td>
                <td>{r.formula}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {ended ? (
        <>
          <p className="text-3xl font-bold">
            {endstop ? "The endstop was moved by" : "Z offset"} {last && mm(last.next)} mm
          </p>
          {!endstop && <StoreField {...p} stores={stores} />}
        </>
      ) : (
        <div className="border-2 border-accent px-4 py-3">
          <p className="text-xl">
            {last ? (
              <>
                {endstop ? `Move the endstop ${last.gap < 0 ? "up" : "down"} by ` : "Store "}
                <b className="font-mono">{mm(endstop ? Math.abs(last.gap) : last.next)} mm</b>, home again, Z to 0.
              </>
            ) : (
              "Home, Z to 0, look at the gap."
            )}
          </p>
          {lines.length > 0 && <p className="font-mono">{lines.join("   ")}</p>}
          <Check
            label={`Homed again and gone to Z 0 since the ${endstop ? "endstop" : "offset"} was set`}
            checked={homed}
            onChange={setHomed}
          />
          <div className="flex flex-wrap items-end gap-3">
            <Field label="Gap seen, mm" htmlFor={`${idPrefix}-gap`} hint="Negative when the nozzle presses">
              <TextInput
                id={`${idPrefix}-gap`}
                value={data.gap ?? ""}
                onChange={(gap) => onChange({ ...data, gap })}
                inputMode="decimal"
                autoComplete="off"
                className="w-36 font-mono text-2xl"
              />
            </Field>
            <Button disabled={!homed || !data.gap} onClick={() => round(false)}>
              {endstop ? "Next round" : "Next offset"}
            </Button>
            <Button disabled={!homed} onClick={() => round(true)}>
              Paper is lightly pinched
            </Button>
          </div>
          <Fault text={fault} />
        </div>
      )}
      {rounds.length > 0 && (
        <button
          type="button"
          className="min-h-10 underline underline-offset-4"
          onClick={() => onChange({ ...data, rounds: rounds.slice(0, -1) })}
        >
          Take the last round back
        </button>
      )}
    </div>
  );
}

function mm(value: number): string {
  return value.toFixed(2).replace("-", "−");
}
