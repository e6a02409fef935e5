import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";

/** The suppliers on record, for fields to propose. */
export function SupplierNames({ id }: { id: string }) {
  const { data } = useQuery({ queryKey: keys.suppliers(), queryFn: () => unwrap(api.GET("/api/suppliers")) });
  return (
    <datalist id={id}>
      {data?.map((s) => (
        <option key={s.supplier} value={s.supplier} />
      ))}
    </datalist>
  );
}
