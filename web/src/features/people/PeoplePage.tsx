import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { AddPerson } from "./AddPerson";
import { EditPerson } from "./EditPerson";
import { ResetPassword } from "./ResetPassword";

type Person = Schemas["Person"];
type Doing = { what: "add" } | { what: "edit" | "password"; id: number };

/** Who can sign in, what they may do and what they can do. */
export default function PeoplePage() {
  const [doing, setDoing] = useState<Doing>();
  const query = useQuery({ queryKey: keys.people(), queryFn: () => unwrap(api.GET("/api/people")) });
  const close = () => setDoing(undefined);
  // As it is now: somebody else may have changed it meanwhile.
  const person = doing && "id" in doing ? query.data?.find((p) => p.id === doing.id) : undefined;
  return (
    <Page
      title="People"
      lead="Who can sign in, their role and their skills."
      actions={
        <Button main onClick={() => setDoing({ what: "add" })}>
          Add a person
        </Button>
      }
    >
      <Loaded query={query} what="Reading the accounts">
        {(people) => (
          <ul className="bg-leaf">
            {people.map((p) => (
              <PersonLine
                key={p.id}
                person={p}
                onEdit={() => setDoing({ what: "edit", id: p.id })}
                onPassword={() => setDoing({ what: "password", id: p.id })}
              />
            ))}
          </ul>
        )}
      </Loaded>
      {doing?.what === "add" && <AddPerson onClose={close} />}
      {doing?.what === "edit" && person && <EditPerson person={person} onClose={close} />}
      {doing?.what === "password" && person && <ResetPassword person={person} onClose={close} />}
    </Page>
  );
}

function PersonLine({ person: p, onEdit, onPassword }: { person: Person; onEdit: () => void; onPassword: () => void }) {
  const own = useSession().account === p.id;
  const { write, busy } = useWrite();
  const path = { params: { path: { id: p.id } } };
  return (
    <li className="flex flex-wrap items-center gap-x-6 gap-y-1 border-b border-rule px-4 py-2">
      <div className="min-w-52 flex-1">
        <p>
          <b className="text-lg">{p.display}</b> <span className="text-dim">signs in as</span>{" "}
          <span className="font-mono">{p.name}</span>
        </p>
        <p className="text-dim">
          {p.role}
          {p.skills.length > 0 && `: ${p.skills.join(", ")}`} · since {showDay(p.since)} ·{" "}
          {p.sessions === 0 ? "not signed in" : `signed in ${p.sessions === 1 ? "once" : `${p.sessions} times`}`}
        </p>
      </div>
      {p.disabledAt && <State tone="dim">switched off {showDay(p.disabledAt)}</State>}
      {p.locked && <State tone="look">too many wrong passwords</State>}
      <div className="flex flex-wrap gap-2">
        {p.locked && (
          <Button
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/people/{id}/unlock", path)),
                () => toast(`${p.display} can try again`),
              )
            }
          >
            Unlock
          </Button>
        )}
        {p.sessions > 0 && !own && (
          <Button
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/people/{id}/end-sessions", path)),
                () => toast(`${p.display} is signed out everywhere`),
              )
            }
          >
            Sign out everywhere
          </Button>
        )}
        <Button onClick={onPassword}>Set a password</Button>
        <Button onClick={onEdit}>Edit</Button>
      </div>
    </li>
  );
}
