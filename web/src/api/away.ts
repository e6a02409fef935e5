import { watched } from "./watched";

/** Whether the server did not answer last, for those who show it. */
export const away = watched(false);
