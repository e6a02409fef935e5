import type { FieldValues, Path, PathValue } from "react-hook-form";
import { type Difference, differences } from "../differences";
import { type KeptForm, useKeptForm } from "./useKeptForm";

export type EditForm<T extends FieldValues> = KeptForm<T> & {
  /** The version that the edit began from. */
  version: number;
  /** Somebody else has saved it since. */
  changed: boolean;
  /** Where what is there now is not what is typed. */
  differs: () => Difference[];
  clear: () => void;
  /** Goes on from what is there now, with what was typed. */
  over: () => void;
};

type Began = { beganFrom: number };

/** A kept form of something that others may change meanwhile: it knows the version that it began from. */
export function useEditForm<T extends FieldValues>(key: string, version: number, initial: T): EditForm<T> {
  const form = useKeptForm<T & Began>(key, { ...initial, beganFrom: version });
  const place = "beganFrom" as Path<T & Began>;
  const began = form.watch(place) as number;
  return {
    ...(form as unknown as KeptForm<T>),
    handleSubmit: (send, fails) =>
      form.handleSubmit(({ beganFrom: _, ...typed }, e) => send(typed as unknown as T, e), fails as never) as never,
    version: began,
    changed: began !== version,
    differs: () => differences(initial, form.getValues()),
    clear: form.forget,
    over: () => form.setValue(place, version as PathValue<T & Began, Path<T & Began>>),
  };
}
