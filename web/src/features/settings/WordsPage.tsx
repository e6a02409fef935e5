import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Fault, Field, Select, TextArea, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { firmwarePages, SubPlaces } from "../../ui/SubPlaces";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Words = Schemas["SettingWords"];
type Word = Schemas["Word"];

/** What words of settings mean, keyed by the firmware family and the word; a shop adds its own. */
export default function WordsPage() {
  const query = useQuery({ queryKey: keys.settingWords(), queryFn: () => unwrap(api.GET("/api/setting-words")) });
  const [editing, setEditing] = useState<Word>();
  const [find, setFind] = useState("");
  return (
    <Page
      title="Words of settings"
      lead="What a word means depends on the family: M906 is an effective current in one and a peak in another. A word of the shop counts over one of the program."
      actions={
        <Button main onClick={() => setEditing({ family: "compiled", form: "G-code", word: "", of: "head 1" })}>
          Add a word
        </Button>
      }
    >
      <SubPlaces label="Firmware" pages={firmwarePages} />
      <div className="mb-3 w-full sm:w-72">
        <Field label="Find a word" htmlFor="words-find">
          <TextInput id="words-find" value={find} onChange={setFind} />
        </Field>
      </div>
      <Loaded query={query} what="Reading the words">
        {(words) => (
          <>
            <Table words={words} find={find} onEdit={setEditing} />
            {editing && <EditWord words={words} word={editing} onClose={() => setEditing(undefined)} />}
          </>
        )}
      </Loaded>
    </Page>
  );
}

const written = (w: Word) =>
  [w.section && `[${w.section}]`, w.word, w.letter, w.item ? `item ${w.item}` : ""].filter(Boolean).join(" ");

function Table({ words, find, onEdit }: { words: Words; find: string; onEdit: (w: Word) => void }) {
  const { write, busy, fault } = useWrite();
  const title = new Map(words.calibrations.map((c) => [c.kind as string, c]));
  const means = (w: Word) => {
    const c = title.get(w.calibration ?? "");
    if (!c) return w.trait ?? "";
    return w.part ? `${c.title}, ${c.parts[w.part - 1]}` : c.title;
  };
  const rows = [
    ...words.shop.map((w) => ({ w: w as Word, id: w.id, by: w.changedBy })),
    ...words.shipped.map((w) => ({ w, id: 0, by: "" })),
  ].filter(({ w }) => `${written(w)} ${means(w)} ${w.family}`.toLowerCase().includes(find.toLowerCase()));
  return (
    <div className="relative overflow-x-auto bg-leaf">
      <Fault text={fault} />
      <table className="w-full text-left">
        <thead>
          <tr className="border-b-2 border-line text-dim">
            {["Family", "Written as", "Word", "Means", "Of", "In", ""].map((h) => (
              <th key={h} className="px-3 py-1">
                {h || <span className="sr-only">What can be done</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ w, id, by }) => (
            <tr key={`${id} ${w.family} ${w.form} ${written(w)} ${w.part ?? 0}`} className="border-b border-rule">
              <td className="px-3 py-1">{w.family}</td>
              <td className="px-3 py-1">{w.form}</td>
              <td className="px-3 py-1 font-mono">{written(w)}</td>
              <td className="px-3 py-1">{means(w)}</td>
              <td className="px-3 py-1">{w.of}</td>
              <td className="px-3 py-1">{w.as || listed(w) || "as on record"}</td>
              <td className="px-3 py-1 whitespace-nowrap">
                <Button
                  onClick={() => onEdit(w)}
                  aria-label={`${id ? "Change" : "Change for this shop"}: ${written(w)}`}
                >
                  {id ? "Change" : "Change for this shop"}
                </Button>
                {id > 0 && (
                  <Button
                    className="ml-2"
                    disabled={busy}
                    aria-label={`Delete ${written(w)}, of ${by}`}
                    onClick={() =>
                      write(
                        () => unwrap(api.POST("/api/setting-words/{id}/delete", { params: { path: { id } } })),
                        () => toast("The word of the shop is deleted"),
                      )
                    }
                  >
                    Delete
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** How each choice is written, for people: "1 is 100k thermistor". */
const listed = (w: Word) =>
  Object.entries(w.values ?? {})
    .map(([as, is]) => `${as} is ${is}`)
    .join(", ");

const forms = ["C header", "sections of keys", "G-code"];
const ways = ["mA RMS", "mA peak", "A RMS", "A peak", "trigger height", "rotation distance"];

/** The choices as they are typed, one a line. */
function choicesOf(text: string): Record<string, string> {
  const lines = text.split("\n").filter((line) => line.trim());
  return Object.fromEntries(
    lines.map((line) => {
      const at = line.lastIndexOf("=");
      return [line.slice(0, at < 0 ? undefined : at).trim(), at < 0 ? "" : line.slice(at + 1).trim()];
    }),
  );
}

function EditWord({ words, word, onClose }: { words: Words; word: Word; onClose: () => void }) {
  const { write, busy, fault } = useWrite();
  const [w, setW] = useState<Word>(word);
  const [choices, setChoices] = useState(() =>
    Object.entries(word.values ?? {})
      .map(([as, is]) => `${as} = ${is}`)
      .join("\n"),
  );
  const set = (change: Partial<Word>) => setW({ ...w, ...change });
  const of = words.calibrations.find((c) => c.kind === w.calibration);
  return (
    <Panel open onOpenChange={onClose} title="What a word means">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const body = {
            ...w,
            section: w.form === "sections of keys" ? w.section : "",
            letter: w.form === "G-code" ? w.letter?.toUpperCase() : "",
            values: w.calibration ? {} : choicesOf(choices),
          };
          write(
            () => unwrap(api.POST("/api/setting-words", { body })),
            () => {
              toast(`${written(w)} saved; settings on record are read with it`);
              onClose();
            },
          );
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="Family" htmlFor="word-family">
            <Select
              id="word-family"
              value={w.family}
              onChange={(v) => set({ family: v as Word["family"] })}
              options={["compiled", "hosted", "scripted"]}
            />
          </Field>
          <Field label="Written as" htmlFor="word-form">
            <Select id="word-form" value={w.form} onChange={(v) => set({ form: v as Word["form"] })} options={forms} />
          </Field>
          {w.form === "sections of keys" && (
            <Field label="Section" htmlFor="word-section" hint="Such as extruder{n} or * stepper_{axis}">
              <TextInput id="word-section" value={w.section ?? ""} onChange={(section) => set({ section })} />
            </Field>
          )}
          <Field label="Word" htmlFor="word-word" hint="M92, DEFAULT_Kp, run_current">
            <TextInput
              id="word-word"
              value={w.word}
              onChange={(v) => set({ word: v })}
              required
              className="font-mono"
            />
          </Field>
          {w.form === "G-code" && (
            <Field label="Letter of its parameter" htmlFor="word-letter">
              <TextInput
                id="word-letter"
                value={w.letter ?? ""}
                onChange={(letter) => set({ letter })}
                maxLength={1}
                className="font-mono"
              />
            </Field>
          )}
          <Field label="Which of a list" htmlFor="word-item" hint="From 1; empty for a single value">
            <TextInput
              id="word-item"
              inputMode="numeric"
              value={w.item ? String(w.item) : ""}
              onChange={(v) => set({ item: Number(v) || 0 })}
            />
          </Field>
          <Field label="It is the value of" htmlFor="word-calibration">
            <Select
              id="word-calibration"
              value={w.calibration ?? ""}
              onChange={(v) => set({ calibration: v, part: v ? w.part : 0, trait: v ? "" : w.trait })}
              options={words.calibrations.map((c) => [c.kind, c.title] as const)}
              empty="No calibration: a trait of a part"
            />
          </Field>
          {of && of.parts.length > 0 && (
            <Field label="Which of its numbers" htmlFor="word-part">
              <Select
                id="word-part"
                value={w.part ? String(w.part) : ""}
                onChange={(v) => set({ part: Number(v) || 0 })}
                options={of.parts.map((p, i) => [String(i + 1), p] as const)}
                empty="Choose"
              />
            </Field>
          )}
          {!w.calibration && (
            <Field label="Trait of a part" htmlFor="word-trait" hint="Its kind, a point and its key, such as frame.x">
              <TextInput
                id="word-trait"
                value={w.trait ?? ""}
                onChange={(trait) => set({ trait })}
                className="font-mono"
              />
            </Field>
          )}
          {!w.calibration && (
            <Field
              label="How each choice is written"
              htmlFor="word-values"
              hint="One a line, such as 1 = 100k thermistor; on and off are an option of a header in force and commented out. Empty where the trait is a number."
            >
              <TextArea id="word-values" rows={3} value={choices} onChange={setChoices} className="font-mono" />
            </Field>
          )}
          <Field
            label="Place that it serves"
            htmlFor="word-of"
            hint="head 1, axis x, bed; head {n} by the section, head {T} by a parameter"
          >
            <TextInput id="word-of" value={w.of} onChange={(v) => set({ of: v })} required className="font-mono" />
          </Field>
          {(w.calibration || !choices.trim()) && (
            <Field label="How the number is written" htmlFor="word-as">
              <Select
                id="word-as"
                value={w.as ?? ""}
                onChange={(v) => set({ as: v as Word["as"] })}
                options={ways}
                empty="As on record"
              />
            </Field>
          )}
        </div>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
