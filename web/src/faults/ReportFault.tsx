import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, type Schemas, unwrap } from "../api/client";
import { useDraft } from "../ui/draft";
import { Button, Cautions, Fault, Field, Select, TextArea } from "../ui/form";
import { Panel } from "../ui/Panel";
import { postFile } from "../ui/post";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";

/** Words and a photo; what the words may mean is proposed while they are typed. */
export function ReportFault({
  machine,
  machines,
  onClose,
}: {
  machine: number;
  machines: readonly Schemas["FleetRow"][];
  onClose: () => void;
}) {
  const [draft, setDraft, clear] = useDraft(`fault-${machine}`, {
    machine: String(machine || ""),
    words: "",
    symptom: "",
  });
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
  const words = useDeferredValue(draft.words.trim());
  const proposed = useQuery({
    queryKey: ["symptoms", words],
    queryFn: () => unwrap(api.GET("/api/symptoms", { params: { query: { words } } })),
    enabled: words.length > 3,
    placeholderData: (before) => before,
  });
  return (
    <Panel open onOpenChange={onClose} title="Report a fault">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            async () => {
              const made = await unwrap(
                api.POST("/api/machines/{id}/faults", {
                  params: { path: { id: Number(draft.machine) } },
                  body: { words: draft.words, symptom: draft.symptom },
                }),
              );
              if (photo) await postFile(`/api/faults/${made.id}/photos`, photo, photo.type || "image/jpeg");
            },
            () => {
              clear();
              toast("Reported: a technician will see it");
              onClose();
            },
          );
        }}
      >
        <Cautions list={["Smoke, sparks or a burnt smell: pull the plug first, then report. Do not leave it alone."]} />
        <Field label="Machine" htmlFor="fault-machine">
          <Select
            id="fault-machine"
            required
            value={draft.machine}
            onChange={(v) => setDraft({ ...draft, machine: v })}
            empty="Choose"
            options={machines.map((m) => [String(m.id), `${m.name}, ${m.bay}`] as const)}
          />
        </Field>
        <Field label="What is wrong?" htmlFor="fault-words" hint="As you see, hear or smell it">
          <TextArea
            id="fault-words"
            required
            rows={4}
            value={draft.words}
            onChange={(v) => setDraft({ ...draft, words: v })}
          />
        </Field>
        {words && proposed.data && proposed.data.length > 0 && (
          <fieldset>
            <legend className="font-semibold">Is it one of these?</legend>
            {[...proposed.data.slice(0, 4).map((s) => [s.key, s.title] as const), ["", "Something else"] as const].map(
              ([key, title]) => (
                <label key={key} className="flex min-h-11 cursor-pointer items-center gap-3">
                  <input
                    type="radio"
                    name="symptom"
                    className="size-6 accent-accent"
                    checked={draft.symptom === key}
                    onChange={() => setDraft({ ...draft, symptom: key })}
                  />
                  {title}
                </label>
              ),
            )}
          </fieldset>
        )}
        <Field label="Photo" htmlFor="fault-photo">
          <input
            id="fault-photo"
            type="file"
            accept="image/*"
            capture="environment"
            className="min-h-11 w-full"
            onChange={(e) => setPhoto(e.target.files?.[0])}
          />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Report it
        </Button>
      </form>
    </Panel>
  );
}
