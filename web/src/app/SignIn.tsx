import { useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Button } from "../ui/form";
import { TextField } from "../ui/forms/fields";
import { SendForm } from "../ui/forms/SendForm";
import { useSecretForm } from "../ui/forms/useKeptForm";

/** The first page: what the book answers, and a name and password to open it. */
export function SignIn({ demo, noAccounts }: { demo: Schemas["DemoAccount"][]; noAccounts: boolean }) {
  const client = useQueryClient();
  const form = useSecretForm({ name: "", password: "" });
  return (
    <main className="grid min-h-dvh lg:grid-cols-[minmax(20rem,2fr)_3fr]">
      <div className="flex flex-col justify-between bg-accent px-8 py-10 text-on-accent lg:px-12 lg:py-16 dark:bg-leaf dark:text-ink">
        <h1 className="text-5xl font-extrabold tracking-tight lg:text-6xl">Wardifex</h1>
        <svg viewBox="0 0 32 32" aria-hidden="true" className="my-10 hidden h-56 self-start lg:block">
          <path d="M4 11v17h24V11" fill="none" stroke="currentColor" strokeWidth="2" />
          <path d="M10 3h12v17H10z" className="fill-[#e0a32e]" />
        </svg>
        <ol className="mt-10 space-y-4 text-xl lg:text-2xl">
          <li>What is really in this machine, and who saw it?</li>
          <li>Does the upgrade fit, before anybody buys or flashes?</li>
          <li>What comes next, on which machine?</li>
        </ol>
      </div>
      <div className="flex flex-col justify-center px-8 py-10 lg:px-20">
        <SendForm
          form={form}
          className="w-full max-w-md space-y-5"
          send={(body) => unwrap(api.POST("/api/session", { body }))}
          onSent={(session) => client.setQueryData(keys.session(), session)}
          button="Sign in"
          sending="Checking the password …"
        >
          <h2 className="text-2xl font-bold">Sign in</h2>
          {noAccounts && (
            <p className="border-l-4 border-look bg-look-wash px-4 py-2">
              There is no account yet. On the server:{" "}
              <code className="font-mono">wardifex user add NAME --role lead</code>
            </p>
          )}
          <TextField control={form.control} name="name" label="Name" autoComplete="username" autoFocus required />
          <TextField
            control={form.control}
            name="password"
            label="Password"
            type="password"
            autoComplete="current-password"
            required
          />
        </SendForm>
        {demo.length > 0 && (
          <section className="mt-10 max-w-md border-l-4 border-line pl-4">
            <h2 className="font-bold">This is the demo room, Netloft</h2>
            <p className="mt-1 text-dim">
              Invented machines, a clock that stands still. Password of each account:{" "}
              <code className="font-mono text-ink">{demo[0]?.password}</code>
            </p>
            <div className="mt-3 flex flex-wrap gap-2">
              {demo.map((a) => (
                <Button
                  key={a.name}
                  onClick={() => {
                    form.setValue("name", a.name);
                    form.setValue("password", a.password);
                  }}
                >
                  Fill in {a.name}
                </Button>
              ))}
            </div>
          </section>
        )}
      </div>
    </main>
  );
}
