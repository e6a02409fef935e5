import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { firmwarePages, SubPlaces } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { SendFile } from "./SendFile";
import { size, tally, tones } from "./words";

/** Sliced files that were judged, and a way to judge another. */
export default function FilesPage() {
  const mayWork = useMayWork();
  const machine = Number(useSearchParams()[0].get("machine")) || 0;
  const { query, rows, first } = usePages(
    keys.printFiles(machine),
    (offset) => unwrap(api.GET("/api/print-files", { params: { query: { machine, offset, limit: PAGE } } })),
    (p) => p.rows,
    (p) => p.found,
  );
  return (
    <Page
      title="On which machine can I print this?"
      lead="A sliced file is judged on every machine: its size, temperatures, start code and what it overrides."
    >
      {mayWork && <SubPlaces label="Firmware" pages={firmwarePages} />}
      <SendFile />
      <section aria-labelledby="known" className="mt-6">
        <h2 id="known" className="mb-1 text-2xl font-bold">
          Files judged before
        </h2>
        <p className="mb-2 text-dim">As they stand now: a machine that was changed since is judged as it is.</p>
        <Loaded query={query} what="Judging the files again">
          {() =>
            rows.length === 0 ? (
              <Empty title="No file was judged yet." />
            ) : (
              <>
                <ul className="bg-leaf">
                  {rows.map((f) => (
                    <FileLine key={f.id} file={f} />
                  ))}
                </ul>
                <More query={query} shown={rows.length} found={first?.found ?? 0} what="files" />
              </>
            )
          }
        </Loaded>
      </section>
    </Page>
  );
}

function FileLine({ file: f }: { file: Schemas["KnownFile"] }) {
  const { write, busy } = useWrite();
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-2">
      <div className="min-w-60 flex-1">
        <Link
          to={`/file/${f.id}`}
          className="inline-flex min-h-10 items-center text-lg font-bold break-all underline underline-offset-4 compact:min-h-0"
        >
          {f.name}
        </Link>
        <p>
          {f.here && <State tone={tones[f.here.answer]}>{f.here.answer}</State>} {tally(f.answers)}
          {f.best.length > 0 && `; free now: ${f.best.join(", ")}`}
        </p>
        {f.stale.length > 0 && (
          <p>
            <State tone="look">Stale</State> changed since it came: {f.stale.join(", ")}
          </p>
        )}
        <p className="text-dim">
          {f.takes} · {size(f.bytes)} · {f.addedBy}, {showDay(f.addedAt)}
        </p>
      </div>
      <Button
        disabled={busy}
        aria-label={`Remove ${f.name}`}
        onClick={() =>
          write(
            () => unwrap(api.POST("/api/print-files/{id}/forget", { params: { path: { id: f.id } } })),
            () =>
              toast(`${f.name} is off the list`, () =>
                write(() => unwrap(api.POST("/api/print-files/{id}/keep", { params: { path: { id: f.id } } }))),
              ),
          )
        }
      >
        Remove
      </Button>
    </li>
  );
}
