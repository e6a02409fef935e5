import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { Decide } from "./Decide";
import { FamilyChange } from "./FamilyChange";
import { FlashBar } from "./FlashBar";
import { FlashChecks } from "./FlashChecks";
import { HostMessage } from "./HostMessage";
import { HostUpdate } from "./HostUpdate";
import { WantFeature } from "./WantFeature";
import { WaysBack } from "./WaysBack";

type Firmware = Schemas["FirmwareOf"];

/** The firmware of one machine: what runs, what it takes, whether to touch it, and the way back. */
export default function FirmwarePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.firmware(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/firmware", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the firmware, and what a new build would make possible">
      {(firmware) => <FirmwareView id={id} firmware={firmware} />}
    </Loaded>
  );
}

function FirmwareView({ id, firmware: f }: { id: number; firmware: Firmware }) {
  const mayWork = useMayWork();
  const [deciding, setDeciding] = useState(false);
  return (
    <Page
      title={`Firmware of ${f.machine}`}
      lead={`${f.family || "unknown"} family; a new build gets in by ${f.way || "a way that is not on record"}; last file flashed: ${f.lastFile || "not on record"}`}
      actions={
        <>
          <LinkButton to={`/machine/${id}`}>To its sheet</LinkButton>
          <LinkButton to={`/machine/${id}/settings`}>Settings</LinkButton>
          <LinkButton to={`/machine/${id}/builds`}>Runs and flashing</LinkButton>
        </>
      }
    >
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-2">
        <section aria-labelledby="runs">
          <h2 id="runs" className="mb-1 text-2xl font-bold">
            What runs
          </h2>
          {f.build ? (
            <p className="text-lg">
              <Link to={`/build/${f.build.id}`} className="font-bold underline underline-offset-4">
                {f.build.name}
              </Link>{" "}
              {f.build.buildVersion} {f.build.label && `· label ${f.build.label}`}
            </p>
          ) : (
            <p>
              <State tone="look">Nobody has said which build it is</State>; identify it under Runs and flashing.
            </p>
          )}
          {f.differs.map((d) => (
            <p key={d}>
              <State tone="bad">Not as advertised</State> {d}
            </p>
          ))}
          {f.cautions.map((c) => (
            <p key={c.word + c.line}>
              <State tone="bad">Protection taken away</State> {c.file}, line {c.line}: {c.says}.
            </p>
          ))}
          {f.remarks.map((r) => (
            <p key={r}>
              <State tone="look">Look</State> {r}
            </p>
          ))}
        </section>
        <section aria-labelledby="touch">
          <h2 id="touch" className="mb-1 text-2xl font-bold">
            Touch it, or leave it alone?
          </h2>
          {f.decision ? (
            <p>
              <State tone={f.decision.answer === "wanted" ? "cond" : "good"}>
                {f.decision.answer === "wanted" ? "A new build is wanted" : "Leave it alone"}
              </State>
              : {f.decision.reason}. {f.decision.unlocks && `It would make possible: ${f.decision.unlocks}. `}
              <span className="text-dim">
                {f.decision.decidedBy}, {showDay(f.decision.decidedAt)}
              </span>
            </p>
          ) : (
            <p>A machine that works is left alone. No reason to touch it is on record.</p>
          )}
          {f.unlocks.length > 0 && (
            <details>
              <summary className="min-h-10 cursor-pointer py-1">
                A new build would make {f.unlocks.length} {f.unlocks.length === 1 ? "upgrade" : "upgrades"} possible
              </summary>
              <ul>
                {f.unlocks.map((u) => (
                  <li key={u.kit}>
                    <Link to={`/ask/${u.kit}/${id}`} className="underline underline-offset-4">
                      {u.name}
                    </Link>
                    : {u.answer}; the build must have {u.needs}
                  </li>
                ))}
              </ul>
            </details>
          )}
          {mayWork && (
            <Button className="mt-2" onClick={() => setDeciding(true)}>
              Record a decision
            </Button>
          )}
        </section>
        {f.memory && (
          <section aria-labelledby="memory" className="lg:col-span-2">
            <h2 id="memory" className="mb-1 text-2xl font-bold">
              Memory
            </h2>
            <FlashBar memory={f.memory} />
            {mayWork && <WantFeature id={id} features={f.features} />}
          </section>
        )}
        {mayWork && (
          <section aria-labelledby="checks">
            <h2 id="checks" className="mb-1 text-2xl font-bold">
              Before you flash
            </h2>
            <FlashChecks id={id} propose={f.propose} />
          </section>
        )}
        <section aria-labelledby="back">
          <h2 id="back" className="mb-1 text-2xl font-bold">
            Cards and backups
          </h2>
          <WaysBack id={id} list={f.waysBack} />
        </section>
        {mayWork && f.family === "hosted" && (
          <section aria-labelledby="message">
            <h2 id="message" className="mb-1 text-2xl font-bold">
              What does this message mean?
            </h2>
            <HostMessage id={id} />
            <h2 className="mt-6 mb-1 text-2xl font-bold">Host update</h2>
            <HostUpdate id={id} />
          </section>
        )}
        {mayWork && (
          <section aria-labelledby="family" className="lg:col-span-2">
            <h2 id="family" className="mb-1 text-2xl font-bold">
              Change of family
            </h2>
            <FamilyChange id={id} families={f.families} />
          </section>
        )}
      </div>
      {deciding && <Decide id={id} firmware={f} onClose={() => setDeciding(false)} />}
    </Page>
  );
}
