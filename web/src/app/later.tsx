import { type ComponentType, useEffect, useState } from "react";
import { Loading } from "../ui/states";

type Module = { default: ComponentType };

/**
 * A page whose code is loaded when it is first shown. React's own lazy holds a page back for 300 ms once it has shown
 * that it is loading; this shows it as soon as it is there.
 */
export function later(load: () => Promise<Module>): ComponentType {
  let loaded: ComponentType | undefined;
  return function Later() {
    const [Page, setPage] = useState(() => loaded);
    const [fault, setFault] = useState<unknown>();
    useEffect(() => {
      if (Page) return;
      let here = true;
      const show = () => here && setPage(() => loaded);
      // Whoever was here before may have loaded it since this was drawn.
      if (loaded) show();
      else
        load().then(
          (m) => {
            loaded = m.default;
            show();
          },
          (e) => {
            if (here) setFault(e);
          },
        );
      return () => {
        here = false;
      };
    }, [Page]);
    if (fault) throw fault;
    return Page ? <Page /> : <Loading what="Opening the page" />;
  };
}
