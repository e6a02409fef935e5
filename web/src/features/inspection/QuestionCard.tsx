import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { SumHelp } from "../../ui/bench/SumHelp";
import { useDraft } from "../../ui/draft";
import { Button, Cautions, Fault, TextInput } from "../../ui/form";
import { postFile } from "../../ui/post";
import { Contradictions } from "../../ui/readings/Contradictions";
import { Decoded } from "../../ui/readings/Decoded";
import { PeekView } from "../../ui/readings/PeekView";
import { SensorHelp } from "../../ui/readings/SensorHelp";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Siblings } from "./Siblings";

type Asked = Schemas["AskedQuestion"];

/** One large question. Everything that is pressed lies in the lower half, in
 *  reach of the thumb of the hand that holds the tablet. */
export function QuestionCard({
  q,
  depths,
  left,
  minutes,
  against,
  fresh,
  mayWork,
  onLater,
  onStop,
}: {
  q: Asked;
  depths: readonly string[];
  left: number;
  minutes: number;
  against: readonly Schemas["MachineSays"][];
  fresh: number;
  mayWork: boolean;
  onLater: () => void;
  onStop: () => void;
}) {
  const [draft, setDraft, clear] = useDraft(`answer-${q.machineId}-${q.key}`, { value: "" });
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus();
    scrollTo(0, 0);
  }, []);
  function answer(value: string, key = q.key) {
    write(
      async () => {
        const made = await unwrap(
          api.POST("/api/machines/{id}/readings", {
            params: { path: { id: q.machineId } },
            body: { key, value, grade: q.grade as "observed", how: q.inspection.title },
          }),
        );
        if (photo) await postFile(`/api/readings/${made.id}/photos`, photo, photo.type || "image/jpeg");
      },
      () => {
        clear();
        toast(`${q.machine}, ${q.label}: ${value}`);
      },
    );
  }
  function cannot() {
    write(
      () =>
        unwrap(
          api.POST("/api/machines/{id}/unreadable", {
            params: { path: { id: q.machineId } },
            body: { key: q.key, inspection: q.inspection.key },
          }),
        ),
      () => toast("Noted as not readable this way"),
    );
  }
  const choices = q.kind === "yes/no" ? ["yes", "no"] : q.choices;
  return (
    <div className="mx-auto flex min-h-[calc(100dvh-10rem)] max-w-3xl flex-col gap-4 md:min-h-[calc(100dvh-6.5rem)]">
      <header className="flex flex-wrap items-baseline justify-between gap-x-4 border-b-2 border-ink pb-2">
        <p className="text-3xl font-extrabold">
          {q.machine} <span className="text-lg font-normal text-dim">{q.bay}</span>
        </p>
        <p className="text-dim">
          {left} to ask, about {minutes} min
        </p>
      </header>
      <ol className="flex flex-wrap gap-x-1 text-sm" aria-label="How far the machine is opened">
        {depths.map((d, i) => (
          <li
            key={d}
            aria-current={i === q.inspection.depth ? "step" : undefined}
            className={`border-b-4 px-2 pb-0.5 ${i === q.inspection.depth ? "border-accent font-bold" : "border-line text-dim"}`}
          >
            {d}
          </li>
        ))}
      </ol>
      <section className="border-l-4 border-accent bg-leaf px-5 py-3">
        <p className="text-lg font-bold">
          {q.inspection.title}
          <span className="font-normal text-dim">
            {" "}
            · {q.inspection.minutes} min{fresh > 1 && `, answers ${fresh} questions`}
          </span>
        </p>
        <p>{q.inspection.how}</p>
        {q.inspection.risk && <p className="font-semibold text-bad">Risk: {q.inspection.risk}.</p>}
      </section>
      <Cautions list={q.inspection.cautions} />
      <div>
        <h1 ref={heading} tabIndex={-1} className="text-4xl font-extrabold outline-none">
          {q.label}
          {q.unit && <span className="text-2xl font-normal text-dim">, {q.unit}</span>}?
        </h1>
        <p className="mt-1 flex flex-wrap items-center gap-x-3 text-dim">
          {q.standsAs !== "unknown" && (
            <>
              <span>
                So far: <b>{q.stands}</b>
              </span>
              <GradeMark grade={q.standsAs} />
            </>
          )}
          {q.pending.length > 0 && <span>Waits for it: {q.pending.join(", ")}</span>}
        </p>
        {q.needed.length > 0 && <p className="mt-1 text-look">It would tell: {q.needed.join("; ")}.</p>}
        {q.safety && (
          <p className="mt-1 font-semibold text-bad">
            <span aria-hidden="true">✖ </span>Safety: {q.safety}.
          </p>
        )}
        {q.hint && <p className="mt-1 text-dim">A hint only: {q.hint}.</p>}
        <Siblings others={q.others} draft={draft.value} />
      </div>
      <div className="mt-auto" />
      {!mayWork ? (
        <p>Only technicians record readings.</p>
      ) : choices.length > 0 ? (
        <>
          {q.help === "sensor" && <SensorHelp choose={(value) => setDraft({ value })} />}
          <fieldset className="grid gap-3 sm:grid-cols-2" aria-label={q.label}>
            {choices.map((c) => (
              <Button
                key={c}
                main={draft.value === c}
                aria-pressed={draft.value === c}
                className="min-h-16 text-2xl"
                disabled={busy}
                onClick={() => (q.kind === "yes/no" ? answer(c) : setDraft({ value: c }))}
              >
                {c}
              </Button>
            ))}
          </fieldset>
        </>
      ) : (
        <>
          {q.help === "heater resistance" && (
            <SumHelp
              sum="heater-ohms"
              place={`inspect-${q.machineId}-${q.key}`}
              unit={q.unit}
              use={(value) => setDraft({ value })}
            />
          )}
          <TextInput
            aria-label={q.label}
            value={draft.value}
            onChange={(value) => setDraft({ value })}
            inputMode={q.kind === "number" ? "decimal" : "text"}
            autoComplete="off"
            spellCheck={false}
            className="min-h-16 font-mono text-4xl"
            onKeyDown={(e) => {
              if (e.key === "Enter" && draft.value.trim()) answer(draft.value);
            }}
          />
        </>
      )}
      {q.help === "processor marking" && <Decoded text={draft.value} choose={(value) => setDraft({ value })} />}
      <PeekView
        machineId={q.machineId}
        factKey={q.key}
        decoded={q.help === "processor marking"}
        text={draft.value}
        choose={(value) => setDraft({ value })}
      />
      {!draft.value && <Contradictions list={against} title="On record here, and cannot be true together" />}
      <Fault text={fault} />
      {mayWork && (
        <div className="sticky bottom-0 -mx-4 grid max-sm:bottom-18 grid-cols-3 gap-3 border-t-2 border-line bg-wall px-4 py-3">
          <label className="inline-flex min-h-16 cursor-pointer items-center justify-center border-2 border-line bg-leaf px-3 text-center font-semibold focus-within:outline-3 focus-within:outline-accent">
            {photo ? "Photo taken" : "Photo"}
            <input
              type="file"
              accept="image/*"
              capture="environment"
              className="sr-only"
              onChange={(e) => setPhoto(e.target.files?.[0])}
            />
          </label>
          <Button className="min-h-16 text-lg" disabled={busy} onClick={cannot}>
            Can't read it
          </Button>
          <Button className="min-h-16 text-lg" disabled={busy} onClick={onLater}>
            Later
          </Button>
          {q.none && (
            <Button className="col-span-3 min-h-11" disabled={busy} onClick={() => answer("none", q.none)}>
              There is none: {q.slot}
            </Button>
          )}
          <Button
            main
            className={`col-span-3 min-h-20 text-3xl ${q.kind === "yes/no" ? "hidden" : ""}`}
            disabled={busy || !draft.value.trim()}
            onClick={() => answer(draft.value)}
          >
            {busy ? "Recording …" : "Record, next"}
          </Button>
        </div>
      )}
      <p className="flex flex-wrap gap-x-6">
        <Link className="inline-flex min-h-11 items-center underline" to={`/machine/${q.machineId}`}>
          {q.machine}'s sheet
        </Link>
        <button type="button" className="min-h-11 underline" onClick={onStop}>
          Stop here
        </button>
      </p>
    </div>
  );
}
