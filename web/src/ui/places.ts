/** A place as people say it: axis Z, head 2, the bed. */
export function placeWords(place: string): string {
  const [kind, which] = place.split(" ");
  if (kind === "axis") return `axis ${which?.toUpperCase()}`;
  if (kind === "head") return `head ${which}`;
  return (
    {
      "": "not placed",
      bed: "the bed",
      frame: "the frame",
      enclosure: "the enclosure",
      electronics: "the electronics",
      shop: "the shop",
    }[place] ?? place
  );
}
