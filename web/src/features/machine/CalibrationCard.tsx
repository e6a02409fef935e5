import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";

type Calibration = Schemas["CalibrationSheet"];

/** What of a machine's values is valid, to hang beside it: printed, it has the day on which it was true. */
export default function CalibrationCard() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.sheet(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the machine's sheet">
      {(sheet) => <Card sheet={sheet} />}
    </Loaded>
  );
}

function Card({ sheet }: { sheet: Schemas["Sheet"] }) {
  const { today, shop } = useSession();
  const valued = sheet.calibrations.filter((c) => c.state === "valid" && c.value && c.step.form !== "tick");
  const missing = sheet.calibrations.filter((c) => c.state !== "valid" && c.state !== "never recorded");
  return (
    <Page
      title={`Calibration card of ${sheet.name}`}
      lead={[shop.name, sheet.bay, sheet.maker, `as of ${showDay(today)}`].filter(Boolean).join(" · ")}
      actions={
        <>
          <LinkButton to={`/machine/${sheet.id}`}>To its sheet</LinkButton>
          <Button main onClick={() => print()}>
            Print
          </Button>
        </>
      }
    >
      <div className="relative overflow-x-auto">
        <table className="w-full border-collapse bg-leaf text-left">
          <thead>
            <tr className="border-b-2 border-ink">
              <th className="px-3 py-1">Calibration</th>
              <th className="px-3 py-1">Value</th>
              <th className="px-3 py-1">Kept in</th>
              <th className="px-3 py-1">Made</th>
            </tr>
          </thead>
          <tbody>
            {valued.map((c) => (
              <Line key={c.kind + c.subject} c={c} />
            ))}
          </tbody>
        </table>
      </div>
      {valued.length === 0 && <p>No value of this machine is valid.</p>}
      {missing.length > 0 && (
        <section aria-labelledby="missing" className="mt-5">
          <h2 id="missing" className="text-xl font-bold">
            Not to be relied on
          </h2>
          <ul className="list-disc pl-5">
            {missing.map((c) => (
              <li key={c.kind + c.subject}>
                {c.name}: {c.state}
                {c.invalid && `, ${c.invalid.reason}`}
              </li>
            ))}
          </ul>
        </section>
      )}
      <p className="mt-5 text-dim">
        Any part, build or surface changed after this day makes values of this card doubtful: look at the sheet.
      </p>
    </Page>
  );
}

function Line({ c }: { c: Calibration }) {
  return (
    <tr className="break-inside-avoid border-b border-rule">
      <th scope="row" className="px-3 py-1.5 font-semibold">
        {c.name}
      </th>
      <td className="px-3 py-1.5 font-mono text-lg">
        {c.value}
        {c.disagreement && <span className="block font-sans text-sm text-look">▲ {c.disagreement.says}</span>}
      </td>
      <td className="px-3 py-1.5">{c.store}</td>
      <td className="px-3 py-1.5 whitespace-nowrap">
        {showDay(c.at)}, {c.by}
      </td>
    </tr>
  );
}
