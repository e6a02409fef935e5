import type { Schemas } from "../../api/client";
import { Text } from "../../ui/StepForm";

/** Who did mains work by which licence, and the earth's continuity with what it was measured. */
export function LicensedFields(fields: {
  data: Schemas["Data"];
  onChange: (data: Schemas["Data"]) => void;
  idPrefix: string;
}) {
  return (
    <>
      <Text {...fields} name="licensed" label="Who did the mains work" hint="By which licence or local rule" />
      <div className="grid gap-3 sm:grid-cols-2">
        <Text
          {...fields}
          name="earth"
          label="Earth continuity, Ω"
          numeric
          hint="From the plug's earth pin to the plate, where it was measured"
        />
        <Text {...fields} name="instrument" label="Measured with" hint="The instrument, as its label names it" />
      </div>
    </>
  );
}
