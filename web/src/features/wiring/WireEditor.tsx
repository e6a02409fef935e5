import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useDeferredValue } from "react";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Check, Fault, Field, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Headers } from "./Headers";
import { type Draft, draftOf, fields, wireOf } from "./wireDraft";

/** Writes a wire sheet; its arithmetic is done while it is typed. */
export function WireEditor({
  id,
  head,
  sheet,
  ports,
  volts,
  onDone,
}: {
  id: number;
  head: string;
  sheet?: Schemas["WireSheetView"];
  ports: readonly Schemas["Port"][];
  volts?: number;
  onDone: () => void;
}) {
  const edit = useEdit(`wire-sheet-${id}-${head}`, sheet?.version ?? 0, {
    wires: (sheet?.sheet.wires ?? []).map(draftOf),
    motors: [...(sheet?.sheet.motors ?? [])],
  });
  const { value: draft, set: setDraft, clear } = edit;
  const { write, busy, fault } = useWrite();
  const loom: Schemas["Loom"] = { wires: draft.wires.map(wireOf), motors: draft.motors };
  const deferred = useDeferredValue(JSON.stringify(loom));
  const judged = useQuery({
    queryKey: keys.checkWires(deferred),
    queryFn: () => unwrap(api.POST("/api/bench/wires", { body: JSON.parse(deferred) })),
    placeholderData: (before) => before,
    retry: false,
  });
  const last = draft.wires.at(-1);
  const addPort = (p: Schemas["Port"]) =>
    setDraft({
      ...draft,
      wires: [
        ...draft.wires,
        ...Array.from({ length: p.ways }, (_, i) =>
          draftOf({
            connector: p.name,
            way: i + 1,
            carries: p.pins?.[i] ?? "",
            contactAmps: p.amperes ?? 0,
            volts: volts ?? 0,
          }),
        ),
      ],
    });
  const setWire = (i: number, d: Draft) => setDraft({ ...draft, wires: draft.wires.map((w, k) => (k === i ? d : w)) });
  const cell = (w: Draft, i: number) => (field: (typeof fields)[number]) => {
    const name = `Line ${i + 1}: ${field[1]}`;
    return (
      <td key={field[0]} className="p-1">
        {field.length === 4 ? (
          <OptionalNumber
            aria-label={name}
            className={field[2]}
            unit={field[3]}
            value={w[field[0]]}
            onChange={(n) => setWire(i, { ...w, [field[0]]: n })}
          />
        ) : (
          <TextInput
            aria-label={name}
            className={field[2]}
            value={w[field[0]]}
            onChange={(v) => setWire(i, { ...w, [field[0]]: v })}
          />
        )}
      </td>
    );
  };
  const setMotor = (i: number, m: Schemas["Motor"]) =>
    setDraft({ ...draft, motors: draft.motors.map((x, k) => (k === i ? m : x)) });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () =>
            unwrap(
              api.PUT("/api/machines/{id}/wires", {
                params: { path: { id } },
                body: { head, version: edit.version, sheet: loom },
              }),
            ),
          () => {
            clear();
            toast("Wire sheet saved");
            onDone();
          },
        );
      }}
    >
      <div className="relative overflow-x-auto">
        <table className="border-collapse text-left">
          <thead>
            <tr>
              {fields.slice(0, 6).map(([k, label]) => (
                <th key={k} className="px-1 py-1 font-semibold">
                  {label}
                </th>
              ))}
              <th className="px-1 py-1 font-semibold">Polarity</th>
              {fields.slice(6).map(([k, label]) => (
                <th key={k} className="px-1 py-1 font-semibold">
                  {label}
                </th>
              ))}
              <th />
            </tr>
          </thead>
          <tbody>
            {draft.wires.map((w, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
              <tr key={i} className="align-top">
                {fields.slice(0, 6).map(cell(w, i))}
                <td className="p-1">
                  <select
                    aria-label={`Line ${i + 1}: Polarity`}
                    className="min-h-11 w-24 border-2 border-line bg-leaf px-1"
                    value={w.polarity}
                    onChange={(e) => setWire(i, { ...w, polarity: e.target.value })}
                  >
                    <option value="">either</option>
                    <option>+</option>
                    <option>−</option>
                    <option>signal</option>
                  </select>
                </td>
                {fields.slice(6).map(cell(w, i))}
                <td className="p-1">
                  <button
                    type="button"
                    aria-label={`Remove line ${i + 1}`}
                    className="grid size-11 place-items-center border-2 border-line hover:border-bad"
                    onClick={() => setDraft({ ...draft, wires: draft.wires.filter((_, k) => k !== i) })}
                  >
                    <X size={18} />
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button
          onClick={() =>
            setDraft({
              ...draft,
              wires: [
                ...draft.wires,
                draftOf({
                  connector: last?.connector ?? "",
                  way: (last?.way ?? 0) + 1,
                  volts: last?.volts || volts || 0,
                }),
              ],
            })
          }
        >
          Add a line
        </Button>
        {ports.map((p) => (
          <Button key={`${p.name}${p.ways}`} onClick={() => addPort(p)}>
            Add {p.name}, {p.ways} ways
          </Button>
        ))}
      </div>
      {judged.isError && <Fault text={messageOf(judged.error)} />}
      <ul className="mt-4 space-y-1">
        {judged.data?.findings.map((f) => (
          <li key={`${f.wire}${f.sentence}`}>
            Line {f.wire + 1}: <State tone={f.bad ? "bad" : f.arithmetic ? "good" : "look"}>{f.sentence}</State>
          </li>
        ))}
      </ul>
      <h2 className="mt-6 text-2xl font-bold">Motors</h2>
      <p className="text-dim">
        What each pin is, first to last: 1A 1B for the ends of one coil, 2A 2B for the other. Two leads with a few ohms
        between them are one coil.
      </p>
      {draft.motors.map((m, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
        <div key={i} className="mt-3 grid items-end gap-3 border-t-2 border-line pt-3 md:grid-cols-[1fr_1fr_1fr_auto]">
          <Field label="Motor" htmlFor={`motor-name-${i}`}>
            <TextInput id={`motor-name-${i}`} value={m.name} onChange={(name) => setMotor(i, { ...m, name })} />
          </Field>
          <Field label="Its plug, pin by pin" htmlFor={`motor-leads-${i}`}>
            <TextInput
              id={`motor-leads-${i}`}
              className="font-mono"
              placeholder="1A 1B 2A 2B"
              value={m.leads}
              onChange={(leads) => setMotor(i, { ...m, leads })}
            />
          </Field>
          <Field label="The board's header, pin by pin" htmlFor={`motor-header-${i}`}>
            <TextInput
              id={`motor-header-${i}`}
              className="font-mono"
              placeholder={ports.find((p) => p.pins?.length === 4)?.pins?.join(" ") ?? "1A 1B 2A 2B"}
              value={m.header}
              onChange={(header) => setMotor(i, { ...m, header })}
            />
          </Field>
          <Check
            label="Reverse direction"
            checked={m.reverse ?? false}
            onChange={(reverse) => setMotor(i, { ...m, reverse })}
          />
          <div className="md:col-span-3">
            {judged.data?.motorsJudged[i] && <Headers judged={judged.data.motorsJudged[i]} />}
          </div>
          <Button danger onClick={() => setDraft({ ...draft, motors: draft.motors.filter((_, k) => k !== i) })}>
            Remove this motor
          </Button>
        </div>
      ))}
      <div className="mt-3">
        <Button
          onClick={() =>
            setDraft({
              ...draft,
              motors: [
                ...draft.motors,
                {
                  name: `Motor ${draft.motors.length + 1}`,
                  leads: "",
                  header: ports.find((p) => p.pins?.length === 4)?.pins?.join(" ") ?? "",
                },
              ],
            })
          }
        >
          Add a motor
        </Button>
      </div>
      <Fault text={fault} />
      <EditConflict edit={edit} busy={busy} />
      <div className="mt-4 flex gap-2">
        <Button type="submit" main disabled={busy}>
          Save the wire sheet
        </Button>
        <Button
          onClick={() => {
            clear();
            onDone();
          }}
        >
          Cancel
        </Button>
      </div>
    </form>
  );
}
