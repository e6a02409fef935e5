/** How each state of a machine is marked. */
export const tones = {
  free: "good",
  "attended only": "look",
  "locked out": "bad",
  "known broken": "bad",
  "out of use": "bad",
} as const;
