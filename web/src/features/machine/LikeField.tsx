import { useQuery } from "@tanstack/react-query";
import type { Control, FieldPathByValue, FieldValues } from "react-hook-form";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { isProposed } from "../../ui/catalogueKeys";
import { SelectField } from "../../ui/forms/fields";

/** After what the machine is built, as the API takes it. */
export function likeOf(choice: string): { machine?: number; model?: string } | undefined {
  if (choice.startsWith("machine ")) return { machine: Number(choice.slice("machine ".length)) };
  if (choice.startsWith("model ")) return { model: choice.slice("model ".length) };
}

/** After what a machine is built: a model of the catalogue, another machine, or the usual one. */
export function LikeField<T extends FieldValues>({
  control,
  name,
}: {
  control: Control<T>;
  name: FieldPathByValue<T, string | undefined>;
}) {
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const models = (catalogue.data?.catalogue.models ?? []).filter(
    (m) => (m.positions ?? []).length > 0 && isProposed(m),
  );
  return (
    <SelectField
      control={control}
      name={name}
      label="Built like"
      hint="It gets the same positions; they are edited on its own sheet afterwards"
      empty="the usual machine: one head, one bed"
      options={[
        ...models.map((m) => [`model ${m.name}`, `${m.name} (model)`] as const),
        ...(fleet.data?.machines ?? []).map((m) => [`machine ${m.id}`, `${m.name}, ${m.maker}`] as const),
      ]}
    />
  );
}
