import { useState } from "react";
import { Button } from "../form";
import { LinkButton } from "../LinkButton";
import { useMayWork } from "../session";
import { BulkUse } from "./BulkUse";

/** What can be done with the machines that are selected. */
export function Selected({ ids, onClear }: { ids: readonly number[]; onClear: () => void }) {
  const mayWork = useMayWork();
  const [using, setUsing] = useState(false);
  const list = ids.map((id) => `machine=${id}`).join("&");
  return (
    <section
      aria-label="Selected machines"
      className="no-print sticky bottom-0 z-20 mt-2 flex flex-wrap items-center gap-2 border-2 border-accent bg-leaf px-3 py-2 max-sm:bottom-20"
    >
      <b className="mr-2">
        {ids.length} {ids.length === 1 ? "machine" : "machines"} selected
      </b>
      <LinkButton to={`/identify?${list}`}>Inspect them</LinkButton>
      {ids.length === 2 && <LinkButton to={`/compare?a=${ids[0]}&b=${ids[1]}`}>Compare them</LinkButton>}
      <LinkButton to={`/ask?${list}`}>Which kits fit?</LinkButton>
      <LinkButton to={`/labels?${list}`}>Their labels</LinkButton>
      {mayWork && <Button onClick={() => setUsing(true)}>Set availability</Button>}
      <Button onClick={onClear}>Select none</Button>
      {using && <BulkUse ids={ids} onClose={() => setUsing(false)} />}
    </section>
  );
}
