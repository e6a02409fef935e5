import { useSearchParams } from "react-router";
import { Changes } from "../../ui/Changes";
import { Field, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";

/** For the lead: who did what, over everything; of one account where it is named. */
export default function RecordPage() {
  const lead = useSession().role === "lead";
  const [search, setSearch] = useSearchParams();
  const account = search.get("account") ?? "";
  return (
    <Page
      title="Who did what"
      lead="Every change, import, deletion and sign-in, newest first. Nothing here can be changed."
    >
      {lead ? (
        <>
          <div className="no-print mb-4 max-w-80">
            <Field label="Account" htmlFor="account" hint="Name that it signs in with; empty for all">
              <TextInput
                id="account"
                value={account}
                onChange={(name) => setSearch(name ? { account: name } : {}, { replace: true })}
              />
            </Field>
          </div>
          <Changes of={account ? { account } : {}} machines />
        </>
      ) : (
        <p>The whole list is for leads. What was changed of a machine stands in its history.</p>
      )}
    </Page>
  );
}
