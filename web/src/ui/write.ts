import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, messageOf } from "../api/client";
import type { FaultText } from "./form";

/** One write at a time, with its fault; a success makes every view look again. */
export function useWrite() {
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState<FaultText>("");
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
      setFault(faultOf(error));
      setAsks(error instanceof ApiError && error.ask);
      if (error instanceof ApiError && error.status === 409) await client.invalidateQueries(); // what is there now
      return false;
    } finally {
      setBusy(false);
    }
  }
  return { write, busy, fault, asks, setFault };
}

/** What a form shows of an error: its sentence, with the meanings to choose from where there are any. */
export function faultOf(error: unknown): FaultText {
  if (error instanceof ApiError && error.meanings.length > 0)
    return { text: error.message, written: error.written, meanings: error.meanings };
  return messageOf(error);
}
