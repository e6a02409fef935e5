/** A share of 1 in whole per cent. */
export const percent = (share: number): string => `${Math.round(share * 100)} %`;
