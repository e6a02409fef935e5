import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { DiffText } from "../../ui/DiffText";
import { showDay } from "../../ui/dates";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Loaded } from "../../ui/states";

/** One settings file: what it states, and its text with its secrets masked. */
export default function SettingsFilePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.settingsFile(id),
    queryFn: () => unwrap(api.GET("/api/settings-files/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the settings file">
      {(f) => (
        <Page
          title={f.name}
          lead={`${f.place}${f.form ? `, written as ${f.form}` : ""}; taken ${showDay(f.takenAt)}, ${f.addedBy}${f.secrets ? `; ${f.secrets} masked; the file that holds them: ${f.original || "not on record"}` : ""}`}
          actions={
            f.machineId ? (
              <LinkButton to={`/machine/${f.machineId}/settings`}>All settings</LinkButton>
            ) : f.buildId ? (
              <LinkButton to={`/build/${f.buildId}`}>Its build</LinkButton>
            ) : undefined
          }
        >
          <div className="grid gap-8 lg:grid-cols-2">
            <section aria-labelledby="states" className="min-w-0">
              <h2 id="states" className="mb-2 text-2xl font-bold">
                What it states
              </h2>
              {f.states.length + f.traits.length === 0 && (
                <p className="text-dim">No word of it is known. Say what its words mean under Words of settings.</p>
              )}
              <ul className="bg-leaf">
                {f.states.map((s) => (
                  <li key={s.kind + s.subject} className="border-b border-rule px-3 py-1">
                    line {s.line}: <b className="font-mono break-all">{s.word}</b> — {s.kind.replaceAll("-", " ")}
                    {s.subject && `, ${s.subject}`}: <b>{s.value}</b>
                  </li>
                ))}
                {f.traits.map((t) => (
                  <li key={t.kind + t.trait + t.place} className="border-b border-rule px-3 py-1">
                    line {t.line}: <b className="font-mono break-all">{t.word}</b> — {t.kind} {t.trait}
                    {t.place && `, ${t.place}`}: <b>{t.choice || t.value}</b>
                  </li>
                ))}
              </ul>
              {f.faults.map((x) => (
                <p key={x.line + x.says}>
                  line {x.line}: {x.says}
                </p>
              ))}
            </section>
            <section aria-labelledby="text" className="min-w-0">
              <h2 id="text" className="mb-2 text-2xl font-bold">
                Its text
              </h2>
              <DiffText text={f.text} name={f.name} />
            </section>
          </div>
        </Page>
      )}
    </Loaded>
  );
}
