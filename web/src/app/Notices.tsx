import { useQuery } from "@tanstack/react-query";
import { Bell } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { showMoment } from "../ui/dates";
import { useWrite } from "../ui/write";

/** How often notices are looked after, ms. */
const AGAIN = 60_000;

/** What somebody is told: bookings moved or proposed, work planned for them. */
export function Notices() {
  const [open, setOpen] = useState(false);
  const { write } = useWrite();
  const query = useQuery({
    queryKey: keys.notices(),
    queryFn: () => unwrap(api.GET("/api/notices")),
    refetchInterval: AGAIN,
  });
  const { notices = [], unread = 0 } = query.data ?? {};
  function change(to: boolean) {
    setOpen(to);
    if (!to && unread > 0 && notices[0])
      write(() => unwrap(api.POST("/api/notices/read", { body: { upTo: notices[0]?.id ?? 0 } })));
  }
  const name = unread > 0 ? `Notices, ${unread} new` : "Notices";
  return (
    <Popover.Root open={open} onOpenChange={change}>
      <Popover.Trigger
        aria-label={name}
        title={name}
        className="relative grid size-11 place-items-center hover:bg-white/20"
      >
        <Bell className="size-5" />
        {unread > 0 && (
          <span
            aria-hidden="true"
            className="absolute top-1 right-0.5 min-w-5 bg-[#e0a32e] px-1 text-center text-sm font-bold text-black"
          >
            {unread}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          aria-label="Notices"
          className="z-50 max-h-[70vh] w-[min(26rem,94vw)] overflow-y-auto border-2 border-accent bg-leaf text-ink shadow-xl"
        >
          {notices.length === 0 && <p className="px-4 py-3">Nobody has told you anything yet.</p>}
          <ul>
            {notices.map((n) => (
              <li key={n.id} className="border-b border-rule">
                <Link
                  to={n.link || "/"}
                  onClick={() => change(false)}
                  className={`block px-4 py-2 hover:bg-wash ${n.readAt ? "" : n.danger ? "border-l-8 border-bad bg-bad-wash font-semibold" : "border-l-4 border-look font-semibold"}`}
                >
                  {n.words}.<span className="block text-sm font-normal text-dim">{showMoment(n.at)}</span>
                </Link>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
