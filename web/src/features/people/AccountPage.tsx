import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showMoment } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { SendForm } from "../../ui/forms/SendForm";
import { useSecretForm } from "../../ui/forms/useKeptForm";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PasswordField } from "./fields";
import { Shifts } from "./Shifts";

/** One's own password, and where one is signed in. */
export default function AccountPage() {
  const session = useSession();
  const sessions = useQuery({ queryKey: keys.ownSessions(), queryFn: () => unwrap(api.GET("/api/account/sessions")) });
  return (
    <Page title="Your account" lead={`${session.name}, ${session.role}`}>
      <div className="grid items-start gap-8 lg:grid-cols-2">
        <div className="space-y-8">
          {session.role !== "member" && <Shifts account={session.account} />}
          <ChangePassword />
        </div>
        <Loaded query={sessions} what="Looking where you are signed in">
          {(list) => <Sessions list={list} />}
        </Loaded>
      </div>
    </Page>
  );
}

function ChangePassword() {
  const form = useSecretForm({ present: "", password: "" });
  return (
    <SendForm
      form={form}
      className="max-w-md space-y-4"
      send={(body) => unwrap(api.POST("/api/account/password", { body }))}
      onSent={() => toast("Your password is changed; everywhere else you are signed out")}
      button="Change the password"
    >
      <h2 className="text-xl font-bold">Change your password</h2>
      <PasswordField control={form.control} name="present" label="Present password" present />
      <PasswordField control={form.control} name="password" label="New password" />
    </SendForm>
  );
}

function Sessions({ list }: { list: readonly Schemas["OwnSession"][] }) {
  const { write, busy, fault } = useWrite();
  return (
    <section>
      <h2 className="mb-2 text-xl font-bold">Where you are signed in</h2>
      <ul className="mb-3 bg-leaf">
        {list.map((s) => (
          <li key={`${s.began} ${s.address}`} className="border-b border-rule px-3 py-2">
            {s.here ? <b>Here</b> : (s.browser || "A browser that does not name itself").slice(0, 120)}
            <span className="block text-dim">
              {s.began && `since ${showMoment(s.began)}, `}from {s.address || "an unknown address"}, until{" "}
              {showMoment(s.until)} at the latest
            </span>
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      <Button
        disabled={busy || list.length < 2}
        onClick={() =>
          write(
            () => unwrap(api.POST("/api/account/end-sessions")),
            () => toast("Signed out everywhere but here"),
          )
        }
      >
        Sign out everywhere else
      </Button>
    </section>
  );
}
