import { useState } from "react";
import { useMayWork } from "../app/session";
import { Page } from "../parts/Page";
import { Empty } from "../parts/states";
import { MetersIn } from "./MetersIn";
import { RegisterIn } from "./RegisterIn";

export default function BringInPage() {
  const mayWork = useMayWork();
  const [what, setWhat] = useState<"register" | "meters">("register");
  if (!mayWork) return <Empty title="Only technicians bring files in." />;
  return (
    <Page title="Bring in" lead="Nothing is written before you say so; then all of it, or none.">
      <div role="tablist" aria-label="What to bring in" className="mb-5 flex gap-2">
        {(
          [
            ["register", "The register of machines"],
            ["meters", "Print-hour meters"],
          ] as const
        ).map(([key, label]) => (
          <button
            key={key}
            type="button"
            role="tab"
            aria-selected={what === key}
            onClick={() => setWhat(key)}
            className={`min-h-11 border-2 px-4 font-semibold ${what === key ? "border-brass bg-wash" : "border-line bg-leaf hover:border-brass"}`}
          >
            {label}
          </button>
        ))}
      </div>
      {what === "register" ? <RegisterIn /> : <MetersIn />}
    </Page>
  );
}
