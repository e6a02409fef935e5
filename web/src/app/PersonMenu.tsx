import { ChevronDown, UserRound } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Link } from "react-router";
import { menuItem, menuLabel, menuLine, menuSheet } from "../ui/menu";
import { setPreference, usePreferences } from "../ui/preferences";
import { useSession, useSignOut } from "../ui/session";

const staff = ["technician", "lead"];

/** What stands behind the person's name: everything to do with running the shop. */
const places = [
  { path: "/account", label: "Your account", roles: ["member", ...staff] },
  { path: "/import", label: "Import", roles: staff },
  { path: "/export", label: "Export", roles: staff },
  { path: "/people", label: "People", roles: ["lead"] },
  { path: "/shop", label: "Shop settings", roles: ["lead"] },
  { path: "/planning", label: "How weeks are planned", roles: ["lead"] },
  { path: "/tokens", label: "API tokens", roles: ["lead"] },
  { path: "/record", label: "Who did what", roles: ["lead"] },
];

export function PersonMenu({ onHelp }: { onHelp: () => void }) {
  const session = useSession();
  const signOut = useSignOut();
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        className="flex min-h-11 max-w-52 items-center gap-1.5 px-2 font-semibold hover:bg-white/20"
        title={`signed in as ${session.role}`}
        aria-label={session.name}
      >
        <UserRound aria-hidden="true" className="size-5 shrink-0 max-sm:hidden lg:hidden" />
        <span className="truncate max-lg:hidden max-sm:inline">{session.name}</span>
        <ChevronDown aria-hidden="true" className="size-4 shrink-0" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className={menuSheet}>
          <DropdownMenu.Label className={menuLabel}>{session.role}</DropdownMenu.Label>
          {places
            .filter((p) => p.roles.includes(session.role))
            .map((p) => (
              <DropdownMenu.Item key={p.path} asChild className={menuItem}>
                <Link to={p.path}>{p.label}</Link>
              </DropdownMenu.Item>
            ))}
          <DropdownMenu.Separator className={menuLine} />
          <Preferences />
          <DropdownMenu.Separator className={menuLine} />
          <DropdownMenu.Item className={menuItem} onSelect={onHelp}>
            Keys and marks
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={signOut}>
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Preferences() {
  const { theme, density, shortcuts } = usePreferences();
  return (
    <>
      <Choice
        label="Colours"
        value={theme}
        options={["auto", "light", "dark"]}
        onChange={(v) => setPreference("theme", v)}
      />
      <Choice
        label="Spacing"
        value={density}
        options={["auto", "compact", "roomy"]}
        onChange={(v) => setPreference("density", v)}
      />
      <Choice
        label="Single-key shortcuts"
        value={shortcuts}
        options={["on", "off"]}
        onChange={(v) => setPreference("shortcuts", v)}
      />
    </>
  );
}

function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly T[];
  onChange: (value: T) => void;
}) {
  return (
    <DropdownMenu.RadioGroup value={value} onValueChange={(v) => onChange(v as T)}>
      <DropdownMenu.Label className={menuLabel}>{label}</DropdownMenu.Label>
      <div className="flex px-2">
        {options.map((o) => (
          <DropdownMenu.RadioItem
            key={o}
            value={o}
            onSelect={(e) => e.preventDefault()}
            className="flex min-h-11 flex-1 cursor-pointer items-center justify-center border-b-4 border-transparent px-3 outline-none data-[highlighted]:bg-wash data-[state=checked]:border-accent data-[state=checked]:font-bold"
          >
            {o}
          </DropdownMenu.RadioItem>
        ))}
      </div>
    </DropdownMenu.RadioGroup>
  );
}
