import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { alongRows } from "../../ui/table/arrows";
import { AddPosition } from "./AddPosition";
import { KeepAsModel } from "./KeepAsModel";
import { MountPanel } from "./MountPanel";
import { PositionPanel } from "./PositionPanel";

type Structure = Schemas["StructureSheet"];

/** Which positions a machine has: added, placed, linked and removed. */
export default function PositionsPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.structure(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/structure", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the machine's positions">
      {(structure) => <Positions id={id} structure={structure} />}
    </Loaded>
  );
}

function Positions({ id, structure }: { id: number; structure: Structure }) {
  const mayWork = useMayWork();
  const [open, setOpen] = useState<string>();
  const [mounting, setMounting] = useState(false);
  const heads = structure.places.filter((p) => p.startsWith("head ")).map((p) => Number(p.slice("head ".length)));
  const at = structure.positions.find((p) => p.key === open);
  // What is recorded of the machine as a whole has its place behind the buttons above.
  const parts = structure.positions.filter((p) => p.kind !== "structure");
  return (
    <Page
      title={`Positions of ${structure.machine}`}
      lead="What this machine has a place for. What is not listed is not there; rules and sums hold for what is listed."
      actions={
        <>
          <LinkButton to={`/machine/${id}?fact=structure.complete`}>Record that the list is checked</LinkButton>
          <LinkButton to={`/machine/${id}?fact=structure.heads`}>How heads share it</LinkButton>
          {mayWork && heads.length > 1 && <Button onClick={() => setMounting(true)}>Mount another head</Button>}
          <LinkButton to={`/machine/${id}`}>To its sheet</LinkButton>
        </>
      }
    >
      {mayWork && <AddPosition id={id} structure={structure} />}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside */}
      <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
        <table className="w-full text-left">
          <thead>
            <tr className="border-b-2 border-line text-dim">
              <th className="px-3 py-2">Position</th>
              <th className="px-3 py-2">Serves</th>
              <th className="px-3 py-2">What is there</th>
              <th className="px-3 py-2">Fed by</th>
              <th className="px-3 py-2">Rides on</th>
            </tr>
          </thead>
          <tbody>
            {parts.map((p, i) => (
              <Row key={p.key} p={p} first={p.group !== parts[i - 1]?.group} onOpen={setOpen} />
            ))}
          </tbody>
        </table>
      </div>
      {mayWork && <KeepAsModel structure={structure} />}
      {mounting && <MountPanel id={id} heads={heads} onClose={() => setMounting(false)} />}
      {at && <PositionPanel id={id} structure={structure} position={at} onClose={() => setOpen(undefined)} />}
    </Page>
  );
}

function Row({ p, first, onOpen }: { p: Schemas["PositionSheet"]; first: boolean; onOpen: (key: string) => void }) {
  return (
    <>
      {first && (
        <tr>
          <th colSpan={5} scope="colgroup" className="border-b-2 border-line bg-wall px-3 pt-3 pb-1 text-dim">
            {p.group || "Other"}
          </th>
        </tr>
      )}
      <tr className="border-b border-rule hover:bg-wash">
        <th scope="row" className="px-3 font-bold">
          <button
            type="button"
            data-row
            className="min-h-10 text-left underline-offset-4 hover:underline"
            onClick={() => onOpen(p.key)}
          >
            {p.label}
          </button>
        </th>
        <td className="px-3 py-1">{p.serves ? p.place : <State tone="look">not placed</State>}</td>
        <td className="px-3 py-1">{p.holds || <span className="text-dim">unknown</span>}</td>
        <td className="px-3 py-1">
          {p.feeder ?? <span className="text-dim">–</span>}
          {p.fedBy && <span className="text-sm text-dim"> ({p.fedBy.grade})</span>}
        </td>
        <td className="px-3 py-1">
          {p.carrier ?? <span className="text-dim">–</span>}
          {p.ridesOn && <span className="text-sm text-dim"> ({p.ridesOn.grade})</span>}
        </td>
      </tr>
    </>
  );
}
