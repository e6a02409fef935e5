import { useSearchParams } from "react-router";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { Imports } from "./Imports";
import { CatalogueIn, RecordIn } from "./JsonIn";
import { MetersIn } from "./MetersIn";
import { RegisterIn } from "./RegisterIn";

const whats = [
  ["register", "The register of machines"],
  ["meters", "Print-hour meters"],
  ["catalogue", "A catalogue"],
  ["record", "Whole records"],
] as const;

export default function ImportPage() {
  const mayWork = useMayWork();
  const [asked, setAsked] = useSearchParams();
  const what = whats.find(([key]) => key === asked.get("what"))?.[0] ?? "register";
  if (!mayWork) return <Empty title="Only technicians import files." />;
  return (
    <Page title="Import" lead="Nothing is written before you have seen what it would do; then all of it, or none.">
      <div role="tablist" aria-label="What to import" className="mb-5 flex flex-wrap gap-2">
        {whats.map(([key, label]) => (
          <button
            key={key}
            type="button"
            role="tab"
            aria-selected={what === key}
            onClick={() => setAsked(key === "register" ? {} : { what: key }, { replace: true })}
            className={`min-h-11 border-2 px-4 font-semibold ${what === key ? "border-accent bg-wash" : "border-line bg-leaf hover:border-accent"}`}
          >
            {label}
          </button>
        ))}
      </div>
      {what === "register" && <RegisterIn />}
      {what === "meters" && <MetersIn />}
      {what === "catalogue" && <CatalogueIn />}
      {what === "record" && <RecordIn />}
      <Imports />
    </Page>
  );
}
