import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Field, TextArea } from "../form";

export type Report = { words: string; symptom: string; photo?: File };
type Draft = { words: string; symptom: string };

/** Words and a photo; what the words may mean is proposed while they are typed. */
export function ReportForm({
  draft,
  setDraft,
  disabled,
  onReport,
}: {
  draft: Draft;
  setDraft: (draft: Partial<Draft>) => void;
  disabled: boolean;
  onReport: (report: Report) => void;
}) {
  const [photo, setPhoto] = useState<File>();
  const words = useDeferredValue(draft.words.trim());
  const proposed = useQuery({
    queryKey: keys.symptoms(words),
    queryFn: () => unwrap(api.GET("/api/symptoms", { params: { query: { words } } })),
    enabled: words.length > 3,
    placeholderData: (before) => before,
  });
  return (
    <form
      className="space-y-4"
      onSubmit={(e) => {
        e.preventDefault();
        onReport({ ...draft, photo });
      }}
    >
      <Field label="Or in your own words: what is wrong?" htmlFor="fault-words" hint="As you see, hear or smell it">
        <TextArea id="fault-words" required rows={3} value={draft.words} onChange={(v) => setDraft({ words: v })} />
      </Field>
      {words.length > 3 && proposed.data && proposed.data.length > 0 && (
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
                  onChange={() => setDraft({ symptom: key })}
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
      <Button type="submit" main disabled={disabled}>
        Report it
      </Button>
    </form>
  );
}
