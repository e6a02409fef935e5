import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext } from "react";
import { api, type Schemas, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { setCurrency } from "./money";
import { setWeekStart } from "./weekStart";

type Session = Schemas["Session"];

/** What somebody may do: each has what those before it have. */
export type Role = "member" | "technician" | "lead";

const SessionContext = createContext<Session | null>(null);

export function useSessionQuery() {
  return useQuery({ queryKey: keys.session(), queryFn: () => unwrap(api.GET("/api/session")), staleTime: 60_000 });
}

export function SessionProvider({ session, children }: { session: Session; children: ReactNode }) {
  setCurrency(session.shop.currency);
  setWeekStart(session.shop.weekStart);
  return <SessionContext value={session}>{children}</SessionContext>;
}

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error("useSession outside a session");
  return session;
}

export function useRole(): Role {
  return useSession().role || "member";
}

/** Whether the account may write; the API refuses it in any case. */
export function useMayWork(): boolean {
  return useSession().role !== "member";
}

export function useSignOut() {
  const client = useQueryClient();
  return async () => {
    await unwrap(api.DELETE("/api/session"));
    client.clear();
    await globalThis.caches?.delete("wardifex-answers"); // what is kept for work without a connection
    location.assign("/");
  };
}
