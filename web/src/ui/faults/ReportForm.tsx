import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";
import { AreaField, RadioField } from "../forms/fields";
import type { KeptForm } from "../forms/useKeptForm";
import { PhotoField } from "../photos/PhotoField";

export type Report = { words: string; symptom: string; photo?: File };
export type FaultDraft = { machine: string; words: string; symptom: string };

/** Words and a photo; what the words may mean is proposed while they are typed. */
export function ReportForm({
  form,
  disabled,
  onReport,
}: {
  form: KeptForm<FaultDraft>;
  disabled: boolean;
  onReport: (report: Report) => void;
}) {
  const [photo, setPhoto] = useState<File>();
  const words = useDeferredValue(form.watch("words").trim());
  const proposed = useQuery({
    queryKey: keys.symptoms(words),
    queryFn: () => unwrap(api.GET("/api/symptoms", { params: { query: { words } } })),
    enabled: words.length > 3,
    placeholderData: (before) => before,
  });
  return (
    <form
      className="space-y-4"
      onSubmit={form.handleSubmit(({ words, symptom }) => onReport({ words, symptom, photo }))}
    >
      <AreaField
        control={form.control}
        name="words"
        label="Or in your own words: what is wrong?"
        hint="As you see, hear or smell it"
        required
        rows={3}
      />
      {words.length > 3 && proposed.data && proposed.data.length > 0 && (
        <div>
          <p className="font-semibold">Is it one of these?</p>
          <RadioField
            control={form.control}
            name="symptom"
            legend="What it may be"
            options={[...proposed.data.slice(0, 4).map((s) => [s.key, s.title] as const), ["", "Something else"]]}
          />
        </div>
      )}
      <PhotoField label="Photo" photo={photo} onPhoto={setPhoto} />
      <Button type="submit" main disabled={disabled}>
        Report it
      </Button>
    </form>
  );
}
