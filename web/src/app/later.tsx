import { type ComponentType, useEffect, useState } from "react";
import { Loading } from "../ui/states";

type Module = { default: ComponentType };

/**
 * A page whose code is loaded when it is first shown. React's own lazy holds a page back for 300 ms once it has shown
 * that it is loading; this shows it as soon as it is there.
 */
export function later(load: () => Promise<Module>): ComponentType {
  let Page: ComponentType | undefined;
  return function Later() {
    const [, setLoaded] = useState(false);
    const [fault, setFault] = useState<unknown>();
    useEffect(() => {
      let here = true;
      if (!Page)
        load().then(
          (m) => {
            Page = m.default;
            if (here) setLoaded(true);
          },
          (e) => {
            if (here) setFault(e);
          },
        );
      return () => {
        here = false;
      };
    }, []);
    if (fault) throw fault;
    return Page ? <Page /> : <Loading what="Opening the page" />;
  };
}
