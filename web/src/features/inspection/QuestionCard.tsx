import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { Fault } from "../../ui/form";
import { postFile } from "../../ui/post";
import { Contradictions } from "../../ui/readings/Contradictions";
import { Decoded } from "../../ui/readings/Decoded";
import { PeekView } from "../../ui/readings/PeekView";
import { usePeek } from "../../ui/readings/usePeek";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { AnswerFields } from "./AnswerFields";
import { QuestionActions } from "./QuestionActions";
import { QuestionHead } from "./QuestionHead";

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
  const peek = usePeek(q.machineId, q.key, draft.value);
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
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
        return made;
      },
      (made) => {
        clear();
        toast(`${q.machine}, ${q.label}: ${value}`, () =>
          write(() =>
            unwrap(
              api.POST("/api/readings/{id}/take-back", {
                params: { path: { id: made.id } },
                body: { why: "recorded by mistake" },
              }),
            ),
          ),
        );
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
      () =>
        toast(`${q.label}: recorded as not readable`, () =>
          write(() =>
            unwrap(
              api.POST("/api/machines/{id}/readable", {
                params: { path: { id: q.machineId } },
                body: { key: q.key, inspection: q.inspection.key },
              }),
            ),
          ),
        ),
    );
  }
  return (
    <div className="mx-auto flex min-h-[calc(100dvh-10rem)] max-w-3xl flex-col gap-4 md:min-h-[calc(100dvh-6.5rem)]">
      <QuestionHead q={q} depths={depths} left={left} minutes={minutes} fresh={fresh} draft={draft.value} />
      <div className="mt-auto" />
      {mayWork ? (
        <AnswerFields
          q={q}
          draft={draft.value}
          busy={busy}
          onDraft={(value) => setDraft({ value })}
          onAnswer={answer}
        />
      ) : (
        <p>Only technicians record readings.</p>
      )}
      {q.help === "processor marking" && <Decoded text={draft.value} choose={(value) => setDraft({ value })} />}
      {peek && (
        <PeekView peek={peek} decoded={q.help === "processor marking"} choose={(value) => setDraft({ value })} />
      )}
      {!draft.value && <Contradictions list={against} title="On record here, and cannot be true together" />}
      <Fault text={fault} />
      {mayWork && (
        <QuestionActions
          q={q}
          photo={photo}
          busy={busy}
          empty={!draft.value.trim()}
          onPhoto={setPhoto}
          onUnreadable={cannot}
          onLater={onLater}
          onNone={() => answer("none", q.none)}
          onRecord={() => answer(draft.value)}
        />
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
