import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { DiffText } from "../../ui/DiffText";
import { Button, Fault, Field, TextArea } from "../../ui/form";
import { useWrite } from "../../ui/write";

/** What a message of the host means, with the change of the configuration that answers it. */
export function HostMessage({ id }: { id: number }) {
  const { write, busy, fault } = useWrite();
  const [text, setText] = useState("");
  const [meanings, setMeanings] = useState<readonly Schemas["MessageMeaning"][]>();
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () => unwrap(api.POST("/api/machines/{id}/firmware/message", { params: { path: { id } }, body: { text } })),
          setMeanings,
        );
      }}
    >
      <p className="text-dim">
        Update in this order: backup, password, host, API server, web page, add-ons. Then read the messages; then paper
        under the nozzle, whatever they say.
      </p>
      <Field label="Paste the message" htmlFor="host-message">
        <TextArea id="host-message" value={text} onChange={setText} rows={3} className="font-mono" required />
      </Field>
      <Fault text={fault} />
      <Button type="submit" disabled={busy}>
        Explain the message
      </Button>
      <div role="status">
        {meanings?.length === 0 && <p>No message like this is known. Look it up in the host&rsquo;s own notes.</p>}
        {meanings?.map((m) => (
          <div key={`${m.means} ${m.key} ${m.section}`} className="border-l-4 border-look px-3 py-1">
            <p>
              <State tone="look">{m.means}</State>
              {m.key && (
                <>
                  : <b className="font-mono">{m.section ? `[${m.section}] ${m.key}` : m.key}</b>
                </>
              )}
            </p>
            <p>{m.do}</p>
            {m.flash && (
              <Link to={`/machine/${id}/builds`} className="underline underline-offset-4">
                Runs and flashing
              </Link>
            )}
            {m.diff && (
              <>
                <p>
                  In {m.file}, line {m.line}:
                </p>
                <DiffText text={m.diff} name={`${m.file}.patch`} />
              </>
            )}
            {m.key && !m.diff && (
              <p className="text-dim">No configuration with this key is on record of this machine.</p>
            )}
          </div>
        ))}
      </div>
    </form>
  );
}
