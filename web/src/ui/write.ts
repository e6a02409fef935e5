import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { ApiError, messageOf } from "../api/client";
import { takeWritten } from "../api/keyed";
import { touchedBy } from "../api/touches";
import type { FaultText } from "./form";

/** Fetches anew what the writes since the last time touch, where it is shown. */
export function useRefresh() {
  const client = useQueryClient();
  return useCallback(() => {
    const touched = touchedBy(takeWritten());
    return client.invalidateQueries({ predicate: (query) => touched(query.queryKey) });
  }, [client]);
}

/** One write at a time, with its fault; a success fetches anew what it touches. */
export function useWrite() {
  const client = useQueryClient();
  const refresh = useRefresh();
  const [said, setFault] = useState<FaultText>("");
  const { mutateAsync, isPending, error, reset } = useMutation({
    mutationFn: (call: () => Promise<unknown>) => call(),
    networkMode: "always", // without a connection the call itself says so
    onMutate: () => setFault(""),
    onSuccess: refresh,
    onError: async (error) => {
      // Part of a longer write may have gone through; after a conflict all is looked at again.
      await (error instanceof ApiError && error.status === 409 ? client.invalidateQueries() : refresh());
    },
  });
  async function write<T>(call: () => Promise<T>, then?: (result: T) => void): Promise<boolean> {
    let result: unknown;
    try {
      result = await mutateAsync(call);
    } catch {
      return false; // shown as the fault
    }
    then?.(result as T);
    return true;
  }
  return {
    write,
    busy: isPending,
    fault: said || (error ? faultOf(error) : ""),
    asks: error instanceof ApiError && error.ask,
    setFault: (fault: FaultText) => {
      reset();
      setFault(fault);
    },
  };
}

/** What a form shows of an error: its sentence, with the meanings to choose from where there are any. */
export function faultOf(error: unknown): FaultText {
  if (error instanceof ApiError && error.meanings.length > 0)
    return { text: error.message, written: error.written, meanings: error.meanings, fields: error.fields };
  return messageOf(error);
}
