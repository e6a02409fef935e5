import type { ReactNode } from "react";
import type { FieldValues } from "react-hook-form";
import { EditConflict } from "../EditConflict";
import { Button, Fault } from "../form";
import { useWrite } from "../write";
import type { EditForm } from "./useEditForm";
import type { KeptForm } from "./useKeptForm";

/** A form that is sent as one write: what is typed stays until it is stored; a fault stands above the button. */
export function SendForm<T extends FieldValues, R>({
  form,
  send,
  onSent,
  button,
  sending,
  tone = "main",
  disabled,
  className = "space-y-4",
  children,
}: {
  form: KeptForm<T> | EditForm<T>;
  send: (typed: T) => Promise<R>;
  /** After it is stored and the form is empty again. */
  onSent: (result: R, typed: T) => void;
  button: ReactNode;
  /** What the button says while the answer is awaited, where that takes its time. */
  sending?: ReactNode;
  tone?: "main" | "plain" | "danger";
  disabled?: boolean;
  className?: string;
  children?: ReactNode;
}) {
  const { write, busy, fault } = useWrite();
  return (
    <form
      className={className}
      onSubmit={form.handleSubmit((typed) =>
        write(
          () => send(typed),
          (result) => {
            form.forget();
            onSent(result, typed);
          },
        ),
      )}
    >
      {children}
      <div className="col-span-full w-full empty:hidden">
        <Fault text={fault} />
        {"changed" in form && <EditConflict edit={form} busy={busy} />}
      </div>
      <Button
        type="submit"
        className="justify-self-start"
        main={tone === "main"}
        danger={tone === "danger"}
        disabled={busy || disabled}
      >
        {busy && sending ? sending : button}
      </Button>
    </form>
  );
}
