import { useEffect } from "react";
import { type DefaultValues, type FieldValues, type UseFormReturn, useForm } from "react-hook-form";

export type KeptForm<T extends FieldValues> = UseFormReturn<T> & { forget: () => void };

/** A form whose values are kept over a reload of the page, until they are sent and forgotten. */
export function useKeptForm<T extends FieldValues>(key: string, initial: T): KeptForm<T> {
  const place = `wardifex-draft:${key}`;
  const form = useForm<T>({ defaultValues: keptIn(place, initial) as DefaultValues<T> });
  const { subscribe, reset } = form;
  useEffect(
    () =>
      subscribe({
        formState: { values: true },
        callback: ({ values }) => {
          try {
            sessionStorage.setItem(place, JSON.stringify(values));
          } catch {
            // Too large to keep over a reload; it stays while the page is open.
          }
        },
      }),
    [subscribe, place],
  );
  return {
    ...form,
    forget: () => {
      reset(initial);
      sessionStorage.removeItem(place);
    },
  };
}

/** A form of what nobody else may find on this computer: nothing of it is kept. */
export function useSecretForm<T extends FieldValues>(initial: T): KeptForm<T> {
  const form = useForm<T>({ defaultValues: initial as DefaultValues<T> });
  return { ...form, forget: () => form.reset(initial) };
}

function keptIn<T>(place: string, initial: T): T {
  try {
    const kept = sessionStorage.getItem(place);
    return kept ? { ...initial, ...(JSON.parse(kept) as T) } : initial;
  } catch {
    return initial;
  }
}
