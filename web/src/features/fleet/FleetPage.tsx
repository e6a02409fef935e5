import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { Asking } from "./Asking";
import { FirstSteps } from "./FirstSteps";

export default function FleetPage() {
  const mayWork = useMayWork();
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  return (
    <Page
      title="Fleet"
      lead="Which machine carries what, how sure, since when."
      actions={
        <>
          <LinkButton to="/compare">Compare two</LinkButton>
          <LinkButton to="/identify">Inspect</LinkButton>
          <LinkButton to="/labels">Labels</LinkButton>
          {mayWork && (
            <LinkButton main to="/machine/new">
              New machine
            </LinkButton>
          )}
        </>
      }
    >
      <Loaded query={fleet} what="Reading the fleet">
        {(f) =>
          f.machines.length === 0 && f.retired.length === 0 ? (
            <FirstSteps mayWork={mayWork} />
          ) : (
            <>
              <Asking />
              {f.retired.length > 0 && (
                <details className="mt-6">
                  <summary className="min-h-11 cursor-pointer font-semibold">Retired: {f.retired.length}</summary>
                  <ul>
                    {f.retired.map((r) => (
                      <li key={r.id}>
                        <Link
                          className="inline-flex min-h-11 items-center underline underline-offset-4"
                          to={`/machine/${r.id}`}
                        >
                          {r.name}
                        </Link>{" "}
                        {showDay(r.at)}: {r.why}
                      </li>
                    ))}
                  </ul>
                </details>
              )}
            </>
          )
        }
      </Loaded>
    </Page>
  );
}
