import { api, type Schemas, unwrap } from "../../api/client";

/** Saves the order list as a CSV file. */
export async function saveCSV(body: { picks: Schemas["Pick"][] }) {
  const file = await unwrap(api.POST("/api/orders.csv", { body, parseAs: "blob" }));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file as unknown as Blob);
  link.download = "order.csv";
  link.click();
  URL.revokeObjectURL(link.href);
}
