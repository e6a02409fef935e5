import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

/** Where a part is, in a word and in words. */
export function placeOf(p: Schemas["Part"]): { where: "machine" | "shelf" | "scrap"; words: string } {
  const now = p.places.find((place) => !place.to);
  if (now) return { where: "machine", words: `${now.machine}, ${now.slot}` };
  if (p.scrappedAt) return { where: "scrap", words: `scrapped ${showDay(p.scrappedAt)}: ${p.scrappedWhy}` };
  return { where: "shelf", words: p.shelf ? `shelf: ${p.shelf}` : "on the shelf" };
}
