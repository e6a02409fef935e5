import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { SumForm } from "../../ui/bench/SumForm";
import { Page } from "../../ui/Page";
import { Loaded, NotFound } from "../../ui/states";
import { alongRows } from "../../ui/table/arrows";

/** The calculators: a list, and one of them at work. */
export default function BenchPage() {
  const key = useParams().name;
  const query = useQuery({ queryKey: keys.bench(), queryFn: () => unwrap(api.GET("/api/bench")), staleTime: Infinity });
  return (
    <Loaded query={query} what="Reading the calculators">
      {({ calculators }) => {
        const chosen = calculators.find((c) => c.key === key);
        if (key && !chosen) return <NotFound />;
        return (
          <Page
            title={chosen ? chosen.title : "Bench"}
            lead={chosen ? chosen.about : "The sums of the trade, with their sources."}
          >
            <div className="grid gap-x-8 gap-y-6 xl:grid-cols-[17rem_minmax(0,1fr)]">
              <List calculators={calculators} chosen={key} />
              {chosen && (
                <section aria-label={chosen.title}>
                  <SumForm key={chosen.key} calculator={chosen} place="page" />
                  <p className="mt-6 text-dim">Source: {chosen.source}.</p>
                </section>
              )}
            </div>
          </Page>
        );
      }}
    </Loaded>
  );
}

function List({ calculators, chosen }: { calculators: readonly Schemas["Calculator"][]; chosen?: string }) {
  const groups = [...new Set(calculators.map((c) => c.group))];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the links inside
    <div
      onKeyDown={alongRows}
      className={chosen ? "max-xl:order-last" : "grid gap-x-8 gap-y-4 sm:grid-cols-2 xl:col-span-2 xl:grid-cols-3"}
    >
      {groups.map((g) => (
        <nav key={g} aria-label={g} className="mb-3">
          <h2 className="border-b-2 border-line font-bold text-dim">{g}</h2>
          <ul>
            {calculators
              .filter((c) => c.group === g)
              .map((c) => (
                <li key={c.key}>
                  <Link
                    data-row
                    to={`/bench/${c.key}`}
                    aria-current={c.key === chosen ? "page" : undefined}
                    className={`flex min-h-11 flex-col justify-center px-2 py-1 hover:bg-wash compact:min-h-8 ${c.key === chosen ? "border-l-4 border-accent bg-wash font-bold" : ""}`}
                  >
                    {c.title}
                    {!chosen && <span className="text-sm text-dim">{c.about}</span>}
                  </Link>
                </li>
              ))}
          </ul>
        </nav>
      ))}
    </div>
  );
}
