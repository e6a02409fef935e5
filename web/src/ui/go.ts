import { useLocation, useNavigate } from "react-router";

/** Whether the person is still where a page was drawn: an answer may come after they have gone elsewhere. */
export function isStill(key: string): boolean {
  return (window.history.state?.key ?? "default") === key; // as the router keeps it
}

/** Goes on to what was just made, unless the person has gone elsewhere meanwhile. */
export function useGo() {
  const navigate = useNavigate();
  const { key } = useLocation();
  return (to: string) => {
    if (isStill(key)) navigate(to);
  };
}
