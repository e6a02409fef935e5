import { Ellipsis } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Link, useLocation, useNavigate } from "react-router";
import { menuItem, menuSheet } from "../ui/menu";
import { isIn, type Place } from "./navigation";

const cell =
  "flex min-w-0 flex-1 flex-col items-center gap-0.5 border-t-4 px-1 pt-1.5 pb-2 text-sm leading-tight font-semibold";
const open = "border-accent text-accent";
const shut = "border-transparent text-dim";

/** The places on a phone, at the thumb; those that do not fit stand behind the last one. */
export function BottomBar({ places }: { places: readonly Place[] }) {
  const go = useNavigate();
  const path = useLocation().pathname;
  const bar = places.filter((p) => p.bar);
  const rest = places.filter((p) => !p.bar);
  return (
    <nav
      aria-label="Places"
      className="no-print fixed inset-x-0 bottom-0 z-30 flex border-t-2 border-line bg-leaf pb-[env(safe-area-inset-bottom)] sm:hidden"
    >
      {bar.map((p) => (
        <Link
          key={p.path}
          to={p.path}
          aria-current={isIn(p, path) ? "page" : undefined}
          className={`${cell} ${isIn(p, path) ? open : shut}`}
        >
          <p.icon aria-hidden="true" className="size-6" />
          {p.label}
        </Link>
      ))}
      {rest.length > 0 && (
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger className={`${cell} ${rest.some((p) => isIn(p, path)) ? open : shut}`}>
            <Ellipsis aria-hidden="true" className="size-6" />
            More
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content side="top" align="end" sideOffset={4} className={menuSheet}>
              {rest.map((p) => (
                <DropdownMenu.Item key={p.path} className={menuItem} onSelect={() => go(p.path)}>
                  <p.icon aria-hidden="true" className="size-5" />
                  {p.label}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
    </nav>
  );
}
