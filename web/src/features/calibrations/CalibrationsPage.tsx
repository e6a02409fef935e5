import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Page } from "../../ui/Page";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { Loaded } from "../../ui/states";
import { useArrangement } from "../../ui/table/useArrangement";
import { CalibrationTable } from "./CalibrationTable";

/** How calibrations and proofs stand over the fleet. */
export default function CalibrationsPage() {
  const [how, arrange] = useArrangement({ sort: "state", group: "kind" });
  const kind = how.only.kind ?? "";
  const query = useQuery({
    queryKey: keys.calibrations(kind),
    queryFn: () => unwrap(api.GET("/api/calibrations", { params: { query: { kind } } })),
    placeholderData: (before) => before,
  });
  return (
    <Page title="Calibrations and proofs" lead="Valid while all that each rests on is unchanged.">
      <SubPlaces label="Work" pages={workPages} />
      <Loaded query={query} what="Looking at every calibration">
        {(book) => <CalibrationTable book={book} how={how} onArrange={arrange} />}
      </Loaded>
    </Page>
  );
}
