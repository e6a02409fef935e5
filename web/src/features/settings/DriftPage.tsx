import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Page } from "../../ui/Page";
import { firmwarePages, SubPlaces } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";

/** Where the settings of the fleet disagree, machine by machine. */
export default function DriftPage() {
  const query = useQuery({ queryKey: keys.drift(), queryFn: () => unwrap(api.GET("/api/drift")) });
  return (
    <Page
      title="Settings that disagree"
      lead="A value that two places set to two numbers is a fault: the machine prints with one of them."
    >
      <SubPlaces label="Firmware" pages={firmwarePages} />
      <Loaded query={query} what="Holding the settings of the fleet against each other">
        {(d) => (
          <>
            <p className="mb-2 text-dim">
              Settings are on record of {d.read} {d.read === 1 ? "machine" : "machines"}, of {d.none} none.
            </p>
            {d.machines.length === 0 && <Empty title="Nothing disagrees in the settings that are on record." />}
            {d.machines.length > 0 && (
              <div className="relative overflow-x-auto bg-leaf">
                <table className="w-full text-left">
                  <thead>
                    <tr className="border-b-2 border-line text-dim">
                      <th className="px-3 py-1">Machine</th>
                      <th className="px-3 py-1">Value</th>
                      <th className="px-3 py-1">Likely right</th>
                      <th className="px-3 py-1">Prints with</th>
                    </tr>
                  </thead>
                  <tbody>
                    {d.machines.flatMap((m) =>
                      m.cautions.map((c) => (
                        <tr key={`${m.id} ${c.word} ${c.line}`} className="border-b border-rule align-baseline">
                          <td className="px-3 py-1">
                            <Link
                              to={`/machine/${m.id}/settings`}
                              className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                            >
                              {m.name}
                            </Link>
                          </td>
                          <td className="px-3 py-1" colSpan={3}>
                            <State tone="bad">Protection taken away</State> {c.file}, line {c.line}: {c.says}.
                          </td>
                        </tr>
                      )),
                    )}
                    {d.machines.flatMap((m) =>
                      m.values.map((v, i) => (
                        <tr key={`${m.id} ${v.title}`} className="border-b border-rule align-baseline">
                          <td className="px-3 py-1">
                            {i === 0 && (
                              <Link
                                to={`/machine/${m.id}/settings`}
                                className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                              >
                                {m.name}
                              </Link>
                            )}
                          </td>
                          <td className="px-3 py-1">{v.title}</td>
                          <td className="px-3 py-1">
                            {v.stands ? <b>{v.stands}</b> : <State tone="look">measure to settle it</State>}
                          </td>
                          <td className="px-3 py-1">
                            {v.statements
                              .filter((s) => s.where === v.inForce)
                              .map((s) => `${s.value}, ${s.where}`)
                              .join("; ")}
                          </td>
                        </tr>
                      )),
                    )}
                  </tbody>
                </table>
              </div>
            )}
          </>
        )}
      </Loaded>
    </Page>
  );
}
