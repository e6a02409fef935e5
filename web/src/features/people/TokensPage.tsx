import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay, showMoment } from "../../ui/dates";
import { Button } from "../../ui/form";
import { NumberField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useSecretForm } from "../../ui/forms/useKeptForm";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { Empty, Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Token = Schemas["APIToken"];

/** What programs sign in with: a script that reads meters, a display in the hall. */
export default function TokensPage() {
  const [making, setMaking] = useState(false);
  const [made, setMade] = useState<Schemas["MadeToken"]>();
  const query = useQuery({ queryKey: keys.tokens(), queryFn: () => unwrap(api.GET("/api/tokens")) });
  return (
    <Page
      title="API tokens"
      lead="With which programs sign in: a script that sends meters, a display in the hall."
      actions={
        <Button main onClick={() => setMaking(true)}>
          Make a token
        </Button>
      }
    >
      {made && (
        <div role="status" className="mb-4 max-w-4xl border-l-4 border-good bg-good-wash px-4 py-3">
          <p className="font-bold">The token of {made.name}. It is shown this once: copy it now.</p>
          <p className="my-2 font-mono break-all select-all">{made.secret}</p>
          <Button onClick={() => navigator.clipboard?.writeText(made.secret).then(() => toast("Copied"))}>Copy</Button>
        </div>
      )}
      <Loaded query={query} what="Reading the tokens">
        {(tokens) =>
          tokens.length === 0 ? (
            <Empty title="No program has a token." />
          ) : (
            <ul className="bg-leaf">
              {tokens.map((t) => (
                <Line key={t.id} token={t} />
              ))}
            </ul>
          )
        }
      </Loaded>
      {making && (
        <MakeToken
          onClose={() => setMaking(false)}
          onMade={(token) => {
            setMade(token);
            setMaking(false);
          }}
        />
      )}
    </Page>
  );
}

function Line({ token: t }: { token: Token }) {
  const { write, busy, fault } = useWrite();
  return (
    <li className="flex flex-wrap items-center gap-x-6 gap-y-1 border-b border-rule px-4 py-2">
      <div className="min-w-52 flex-1">
        <p>
          <b className="text-lg">{t.name}</b> <span className="text-dim">as {t.role}, for</span> {t.by}
        </p>
        <p className="text-dim">
          made {showDay(t.createdAt)}, good until {showDay(t.expiresAt)} ·{" "}
          {t.usedAt ? `last used ${showMoment(t.usedAt)}` : "never used"}
        </p>
        {fault && <p className="text-bad">{String(fault)}</p>}
      </div>
      {t.revokedAt ? (
        <State tone="dim">ended {showDay(t.revokedAt)}</State>
      ) : (
        <Button
          aria-label={`End the token of ${t.name}`}
          disabled={busy}
          onClick={() =>
            write(
              () => unwrap(api.POST("/api/tokens/{id}/revoke", { params: { path: { id: t.id } } })),
              () => toast(`The token of ${t.name} is ended`),
            )
          }
        >
          End it
        </Button>
      )}
    </li>
  );
}

type Draft = { name: string; role: "member" | "technician"; days?: number };

function MakeToken({ onClose, onMade }: { onClose: () => void; onMade: (t: Schemas["MadeToken"]) => void }) {
  const form = useSecretForm<Draft>({ name: "", role: "technician", days: 365 });
  const { control } = form;
  return (
    <Panel open onOpenChange={onClose} title="Make a token">
      <SendForm
        form={form}
        send={({ days = 0, ...typed }) => unwrap(api.POST("/api/tokens", { body: { ...typed, days } }))}
        onSent={onMade}
        button="Make the token"
      >
        <TextField
          control={control}
          name="name"
          label="What uses it"
          hint="Such as: meter script of the host"
          required
          maxLength={60}
        />
        <SelectField
          control={control}
          name="role"
          label="It may do what this role may"
          options={[
            ["technician", "technician: record, send meters, import"],
            ["member", "member: read, report faults"],
          ]}
        />
        <NumberField control={control} name="days" label="Good for, days" hint="At most 731" />
      </SendForm>
    </Panel>
  );
}
