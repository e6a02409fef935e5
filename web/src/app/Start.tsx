import { Navigate } from "react-router";
import { useRole } from "../ui/session";
import { startOf } from "./navigation";

/** Each role starts where its day starts. */
export function Start() {
  return <Navigate to={startOf(useRole())} replace />;
}
