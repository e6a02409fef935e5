import { Navigate } from "react-router";
import { startOf } from "./navigation";
import { useRole } from "./session";

/** Each role starts where its day starts. */
export function Start() {
  return <Navigate to={startOf(useRole())} replace />;
}
