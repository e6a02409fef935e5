import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Field, Select, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Empty, Loaded } from "../../ui/states";
import { Qr } from "./Qr";

type Label = { key: string; path: string; big: string; small: string; group: string };

/** A sheet of labels to print: scanning one opens the machine's or part's page. */
export default function LabelsPage() {
  const [asked] = useSearchParams();
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const parts = useQuery({
    queryKey: keys.parts("tagged"),
    queryFn: async () =>
      (await unwrap(api.GET("/api/parts", { params: { query: { tagged: true, limit: 1000 } } }))).parts,
  });
  const chosen = asked.getAll("machine").map(Number);
  const part = asked.get("part");
  const [of, setOf] = useState(part || asked.get("parts") ? "parts" : "machines");
  const [bay, setBay] = useState("");
  const [base, setBase] = useState(location.origin);
  const [skip, setSkip] = useState("0");
  const [left, setLeft] = useState<string[]>([]);
  const [wide, setWide] = useState("3");
  return (
    <Page
      title="Labels"
      lead="Print, cut, stick. Scanning opens the page: a plain link, and a name to read without a scanner."
      actions={
        <Button main onClick={() => print()}>
          Print the sheet
        </Button>
      }
    >
      <Loaded query={fleet} what="Reading the machines">
        {(f) => (
          <Loaded query={parts} what="Reading the parts">
            {(list) => {
              const all: Label[] =
                of === "machines"
                  ? f.machines
                      .filter((m) => (chosen.length === 0 || chosen.includes(m.id)) && (!bay || m.bay === bay))
                      .map((m) => ({
                        key: `m${m.id}`,
                        path: `/machine/${m.id}`,
                        big: m.name,
                        small: m.bay,
                        group: m.maker,
                      }))
                  : list
                      .filter((p) => (part ? p.id === Number(part) : p.tag))
                      .map((p) => ({
                        key: `p${p.id}`,
                        path: `/part/${p.id}`,
                        big: p.tag || `part ${p.id}`,
                        small: p.model,
                        group: p.serial,
                      }));
              const shown = all.filter((l) => !left.includes(l.key));
              const bays = [...new Set(f.machines.map((m) => m.bay).filter(Boolean))].sort();
              return (
                <>
                  <div className="no-print mb-6 grid gap-4 md:grid-cols-3">
                    <Field label="Labels of" htmlFor="labels-of">
                      <Select
                        id="labels-of"
                        value={of}
                        onChange={setOf}
                        options={[
                          ["machines", "machines"],
                          ["parts", "parts with a tag"],
                        ]}
                      />
                    </Field>
                    {of === "machines" && chosen.length === 0 && (
                      <Field label="Bay" htmlFor="labels-bay">
                        <Select id="labels-bay" value={bay} onChange={setBay} options={bays} empty="Every bay" />
                      </Field>
                    )}
                    <Field
                      label="Links begin with"
                      htmlFor="labels-base"
                      hint="The address by which a tablet in the room reaches this application"
                    >
                      <TextInput id="labels-base" className="font-mono" value={base} onChange={setBase} />
                    </Field>
                    <Field label="Labels beside each other" htmlFor="labels-wide">
                      <Select id="labels-wide" value={wide} onChange={setWide} options={["2", "3", "4"]} />
                    </Field>
                    <Field label="Places already used on the sheet" htmlFor="labels-skip">
                      <TextInput id="labels-skip" inputMode="numeric" value={skip} onChange={setSkip} />
                    </Field>
                    <details>
                      <summary className="min-h-11 cursor-pointer font-semibold">
                        Which: {shown.length} of {all.length}
                      </summary>
                      <div className="max-h-60 overflow-auto">
                        {all.map((l) => (
                          <Check
                            key={l.key}
                            label={l.big}
                            checked={!left.includes(l.key)}
                            onChange={(on) => setLeft(on ? left.filter((k) => k !== l.key) : [...left, l.key])}
                          />
                        ))}
                      </div>
                    </details>
                  </div>
                  {shown.length === 0 ? (
                    <Empty title="Nothing to label.">
                      {of === "parts" && <p>Parts get a label once they have a tag of their own.</p>}
                    </Empty>
                  ) : (
                    <ul
                      className={`grid overflow-x-auto bg-white text-black ${{ "2": "grid-cols-2", "3": "grid-cols-3", "4": "grid-cols-4" }[wide]}`}
                    >
                      {Array.from({ length: Math.min(60, Number(skip) || 0) }, (_, i) => (
                        // biome-ignore lint/suspicious/noArrayIndexKey: empty places are alike
                        <li key={i} aria-hidden="true" className="border border-dashed border-transparent" />
                      ))}
                      {shown.map((l) => (
                        <li
                          key={l.key}
                          className="flex break-inside-avoid items-center gap-3 border border-dashed border-neutral-400 p-3"
                        >
                          <Qr text={base.replace(/\/$/, "") + l.path} />
                          <span className="min-w-0 leading-tight">
                            <b className="block text-2xl break-words">{l.big}</b>
                            <span className="block text-lg">{l.small}</span>
                            <span className="block text-sm break-words">{l.group}</span>
                          </span>
                        </li>
                      ))}
                    </ul>
                  )}
                </>
              );
            }}
          </Loaded>
        )}
      </Loaded>
    </Page>
  );
}
