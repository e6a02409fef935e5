import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showMoment } from "../../ui/dates";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";

/** The tag that hangs on a machine with a person's lock. */
export default function TagPage() {
  const id = Number(useParams().id);
  const session = useSession();
  const query = useQuery({
    queryKey: keys.order(id),
    queryFn: () => unwrap(api.GET("/api/work/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the work order">
      {(order) => {
        const mine = order.locks.find((l) => !l.off && l.account === session.account);
        return (
          <Page
            title={`Tag for ${order.machine}`}
            actions={
              <>
                <LinkButton to={`/work/${id}`}>Back to the work</LinkButton>
                <Button main onClick={() => print()}>
                  Print
                </Button>
              </>
            }
          >
            <article className="max-w-xl border-8 border-bad bg-leaf p-6 text-center">
              <p className="text-5xl font-extrabold">DO NOT SWITCH ON</p>
              <p className="mt-2 text-2xl">Somebody is at work on this machine.</p>
              <p className="mt-6 text-4xl font-bold">{order.machine}</p>
              <p className="text-xl">
                work order {order.id}: {order.kit}
              </p>
              <p className="mt-6 text-2xl">
                Lock of <b>{session.name}</b>
              </p>
              <p>{mine ? `put on ${showMoment(mine.putOn)}` : "not on yet: put it on before this tag hangs there"}</p>
              <p className="mt-6">Only {session.name} takes this tag off.</p>
            </article>
          </Page>
        );
      }}
    </Loaded>
  );
}
