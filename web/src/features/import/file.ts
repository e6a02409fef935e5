export const MAX_BYTES = 32 * 1024 * 1024;
