import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showSpan } from "../clock";
import { Button, Fault } from "../form";
import { DayField, SelectField, TextField } from "../forms/fields";
import { SendForm } from "../forms/SendForm";
import { useKeptForm } from "../forms/useKeptForm";
import { Panel } from "../Panel";
import { toast } from "../toast";
import { useWrite } from "../write";
import { pin, pinnedWords, unpin } from "./pinned";
import { workLink } from "./workLink";

/** A piece of planned work: why it stands where it does, and another time or person for it. */
export function WorkPanel({ work: w, onClose }: { work: Schemas["ShownWork"]; onClose: () => void }) {
  const plan = useQuery({ queryKey: keys.roster(), queryFn: () => unwrap(api.GET("/api/roster")) });
  const form = useKeptForm(`pin-${w.key}`, {
    person: String(w.account),
    day: w.from.slice(0, 10),
    from: w.from.slice(11, 16),
  });
  const { write, busy, fault } = useWrite();
  const people = plan.data?.people.map((p) => [String(p.account), p.name] as const) ?? [[String(w.account), w.person]];
  return (
    <Panel open onOpenChange={onClose} title={`${w.machine}: ${w.title}`}>
      <p className="text-lg">
        <b>{showSpan(w.from, w.to)}</b>, {w.person}
        {w.pinned && " ■ pinned"}
      </p>
      <p className="my-2">
        <Link className="inline-flex min-h-11 items-center underline underline-offset-4" to={workLink(w)}>
          {w.order ? "Open the work order" : w.fault ? "Go to the fault" : "Go to the machine's maintenance"}
        </Link>
      </p>
      <h3 className="text-lg font-bold">Why it stands there</h3>
      <ul className="mb-4 list-disc pl-6">
        {w.why.map((text) => (
          <li key={text}>{text}.</li>
        ))}
      </ul>
      {w.pinned && (
        <div className="mb-4">
          <Button
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/roster/let-go", { body: { key: w.key } })),
                () => {
                  toast("The next plan may move it again", () => write(() => pin(w.key, w.account, w.from)));
                  onClose();
                },
              )
            }
          >
            Let it be moved again
          </Button>
          <Fault text={fault} />
        </div>
      )}
      <h3 className="text-lg font-bold">Put it elsewhere</h3>
      <SendForm
        form={form}
        send={(t) => pin(w.key, Number(t.person), `${t.day}T${t.from}`)}
        onSent={({ moved }) => {
          toast(pinnedWords(moved), () => write(() => unpin(w)));
          onClose();
        }}
        button="Pin it there"
        sending="Making room …"
      >
        <div className="grid gap-3 sm:grid-cols-3">
          <SelectField control={form.control} name="person" label="Who does it" options={people} />
          <DayField control={form.control} name="day" label="Day" />
          <TextField
            control={form.control}
            name="from"
            label="From"
            pattern="([01][0-9]|2[0-3]):[0-5][0-9]"
            title="A time such as 14:00"
            required
          />
        </div>
      </SendForm>
    </Panel>
  );
}
