import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, messageOf } from "../api/client";

/** One write at a time, with its fault; a success makes every view look again. */
export function useWrite() {
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState("");
  const [asks, setAsks] = useState(false);
  async function write<T>(call: () => Promise<T>, then?: (result: T) => void): Promise<boolean> {
    setBusy(true);
    setFault("");
    setAsks(false);
    try {
      const result = await call();
      await client.invalidateQueries();
      then?.(result);
      return true;
    } catch (error) {
      setFault(messageOf(error));
      setAsks(error instanceof ApiError && error.ask);
      if (error instanceof ApiError && error.status === 409) await client.invalidateQueries(); // what is there now
      return false;
    } finally {
      setBusy(false);
    }
  }
  return { write, busy, fault, asks, setFault };
}
