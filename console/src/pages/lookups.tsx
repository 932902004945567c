import { LookupsPanel } from "../parts/lookups";

export function LookupsPage() {
  return (
    <div className="max-w-3xl">
      <LookupsPanel />
    </div>
  );
}
