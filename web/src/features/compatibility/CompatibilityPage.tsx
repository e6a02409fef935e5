import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../../ui/badges";
import { useDraft } from "../../ui/draft";
import { Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { alongRows } from "../../ui/table/arrows";
import { FleetLook } from "./FleetLook";
import { HiddenKits } from "./HiddenKits";
import { MatrixView } from "./MatrixView";
import { OpenBatch } from "./OpenBatch";

/** Every kit on every machine; or one kit, with what decides on each. */
export default function CompatibilityPage() {
  const chosen = useParams().kit;
  const kits = useQuery({ queryKey: keys.kits(), queryFn: () => unwrap(api.GET("/api/kits")) });
  return (
    <Page
      title="Compatibility"
      lead="Before anybody buys or flashes: a kit judged on every machine, by what is known of each."
    >
      <Loaded query={kits} what="Reading the kits">
        {(list) => (
          <>
            {chosen ? <KitView kit={chosen} kits={list} /> : <MatrixView kits={list} />}
            <HiddenKits />
          </>
        )}
      </Loaded>
    </Page>
  );
}

function KitView({ kit, kits }: { kit: string; kits: readonly Schemas["Kit"][] }) {
  const go = useNavigate();
  const mayWork = useMayWork();
  return (
    <>
      <div className="mb-5 flex flex-wrap items-end gap-3">
        <div>
          <label htmlFor="ask-kit" className="mb-1 block font-semibold">
            Kit
          </label>
          <Select
            id="ask-kit"
            value={kit}
            onChange={(k) => go(`/ask/${k}`)}
            options={kits.map((k) => [k.key, `${k.name} (${k.what})`] as const)}
          />
        </div>
        <LinkButton to="/ask">All kits and machines</LinkButton>
        {mayWork && <LinkButton to={`/kit/${kit}`}>What it asks for</LinkButton>}
      </div>
      <Rows kit={kit} />
      <FleetLook kit={kit} />
    </>
  );
}

type Mark = Schemas["Counted"];
type Asked = { answer: Mark["answer"] | ""; lean: Mark["lean"] };

function Rows({ kit }: { kit: string }) {
  const mayWork = useMayWork();
  const [view, setView] = useDraft<Asked>("verdicts", { answer: "", lean: "" });
  const { query, first, rows } = usePages(
    keys.verdicts(kit, view),
    (offset) =>
      unwrap(
        api.GET("/api/kits/{key}/verdicts", {
          params: { path: { key: kit }, query: { ...view, offset, limit: PAGE } },
        }),
      ),
    (page) => page.rows,
    (page) => page.found,
  );
  if (!first)
    return (
      <Loaded query={query} what="Judging the kit on every machine">
        {() => null}
      </Loaded>
    );
  return (
    <>
      <p className="mb-4 max-w-3xl">
        {first.kit.about} About {first.kit.minutes} min, price {first.kit.price}. Skill: {first.kit.skill}.
      </p>
      {mayWork && (
        <p className="mb-4">
          <OpenBatch kit={kit} rows={rows} reasons={first.reasons} />
        </p>
      )}
      <fieldset className="mb-4 flex flex-wrap gap-2">
        <legend className="sr-only">Show only</legend>
        <Chip on={view.answer === ""} click={() => setView({ answer: "", lean: "" })}>
          all {first.all}
        </Chip>
        {first.counts
          .filter((m) => !m.lean || m.count > 0)
          .map((m) => {
            const on = view.answer === m.answer && view.lean === m.lean;
            return (
              <Chip
                key={m.answer + m.lean}
                on={on}
                click={() => setView(on ? { answer: "", lean: "" } : { answer: m.answer, lean: m.lean })}
              >
                <VerdictMark answer={m.answer} lean={m.lean || undefined} /> {m.count}
              </Chip>
            );
          })}
      </fieldset>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the row links inside */}
      <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
        <table className="w-full border-collapse">
          <thead className="border-b-2 border-line bg-wall text-left">
            <tr>
              <th scope="col" className="px-3 py-2">
                Verdict
              </th>
              <th scope="col" className="px-3 py-2">
                Machine
              </th>
              <th scope="col" className="px-3 py-2">
                What decides
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.machineId} className="border-b border-rule hover:bg-wash">
                <td className="w-44 px-3 py-2 align-top">
                  <VerdictMark answer={r.answer} lean={r.lean || undefined} />
                </td>
                <th scope="row" className="w-44 p-0 text-left align-top">
                  <Link
                    data-row
                    to={`/ask/${kit}/${r.machineId}`}
                    className="block min-h-14 px-3 py-2 text-lg leading-tight font-bold"
                  >
                    {r.machine}
                    <span className="block text-sm font-normal text-dim">
                      {r.bay}
                      {r.locked && " · locked out"}
                    </span>
                  </Link>
                </th>
                <td className="px-3 py-2 align-top">
                  {r.headline}
                  {r.lookMinutes > 0 && (
                    <span className="block text-sm text-dim">longest look {r.lookMinutes} min</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length === 0 && <p className="mt-4">No machine has this verdict.</p>}
      <More query={query} shown={rows.length} found={first.found} what="machines" />
    </>
  );
}

function Chip({ on, click, children }: { on: boolean; click: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={click}
      className={`inline-flex min-h-11 items-center gap-2 border-2 px-3 font-semibold ${on ? "border-accent bg-wash" : "border-line bg-leaf hover:border-accent"}`}
    >
      {children}
    </button>
  );
}
