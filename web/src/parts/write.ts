import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { messageOf } from "../api/client";

/** One write at a time, with its fault; a success makes every view look again. */
export function useWrite() {
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState("");
  async function write<T>(call: () => Promise<T>, then?: (result: T) => void): Promise<boolean> {
    setBusy(true);
    setFault("");
    try {
      const result = await call();
      await client.invalidateQueries();
      then?.(result);
      return true;
    } catch (error) {
      setFault(messageOf(error));
      return false;
    } finally {
      setBusy(false);
    }
  }
  return { write, busy, fault, setFault };
}
