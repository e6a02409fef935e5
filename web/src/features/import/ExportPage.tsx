import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";

const files = [
  ["/api/register.csv", "Register as CSV", "Every machine with what is fitted, one row each."],
  ["/api/record.json", "Record as JSON", "Machines, parts, readings and photos, to be imported elsewhere."],
  ["/api/catalogue.json", "Catalogue as JSON", "Kinds, positions and models of this shop."],
] as const;

/** What can be taken out of the application. */
export default function ExportPage() {
  return (
    <Page title="Export" lead="Files in open forms: another installation, a spreadsheet or a script reads them.">
      <ul className="max-w-3xl bg-leaf">
        {files.map(([path, label, what]) => (
          <li key={path} className="flex flex-wrap items-center justify-between gap-4 border-b border-rule px-4 py-3">
            <span>{what}</span>
            <LinkButton href={path}>{label}</LinkButton>
          </li>
        ))}
      </ul>
    </Page>
  );
}
