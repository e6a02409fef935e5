import { Button } from "../form";

/** What to do now: said once, large, before anything else can be tapped. */
export function DangerReported({ machine, onClose }: { machine: string; onClose: () => void }) {
  return (
    <div role="alert" className="space-y-3 border-l-4 border-bad bg-bad-wash px-5 py-4 text-lg">
      <p className="text-2xl font-bold">{machine} is out of use now. Technicians and leads have been told.</p>
      <ol className="list-decimal space-y-2 pl-6">
        <li>Pull its plug, if you can reach it safely.</li>
        <li>Do not switch it on again.</li>
        <li>If it burns: get everybody out and call the fire service. Follow your shop's fire rules.</li>
        <li>Tell a technician; stay near until one has come or it is cold.</li>
      </ol>
      <Button main onClick={onClose}>
        Close
      </Button>
    </div>
  );
}
