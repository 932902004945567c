import { useQuery } from "@tanstack/react-query";
import { api, type Kept } from "../api";
import { Failure, Panel } from "../ui/panel";
import { count, plural, size } from "../words";

const titles: Record<string, string> = { message: "Messages", attempt: "Attempts", outcome: "Outcomes" };

/** What the journal keeps, how long, and what it takes on the database's disk. */
export function StoragePage() {
  const storage = useQuery({ queryKey: ["storage"], queryFn: api.storage, refetchInterval: 30_000 });
  if (storage.isError && !storage.data) return <Failure error={storage.error} />;
  if (!storage.data)
    return (
      <Panel title="Storage">
        <p className="px-4 py-3 text-ink-soft">Measuring…</p>
      </Panel>
    );
  const most = Math.max(...storage.data.kept.map((one) => one.forecast ?? one.bytes), 1);
  const total = storage.data.kept.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <Panel title="Storage" aside={<span>{size(total)} on the database's disk</span>}>
      <table className="w-full">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th>Kept</th>
            <th className="text-right">Days</th>
            <th>Removed after</th>
            <th className="text-right">Now</th>
            <th className="text-right">Per day</th>
            <th className="text-right">Expected maximum</th>
            <th className="w-1/4" />
          </tr>
        </thead>
        <tbody>
          {storage.data.kept.map((one) => (
            <Row key={one.what} one={one} most={most} />
          ))}
        </tbody>
      </table>
      <p className="px-4 py-3 text-[13px] text-ink-soft">
        Dead letters keep a copy of their message, however old. How long each is kept is a setting of the
        service (docs/operations.md).
      </p>
    </Panel>
  );
}

function Row({ one, most }: { one: Kept; most: number }) {
  const end = one.forecast ?? one.bytes;
  return (
    <tr className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5">
      <td className="font-semibold">{titles[one.what] ?? one.what}</td>
      <td className="text-right">{count(one.days)}</td>
      <td className="text-ink-soft">{one.limit === 0 ? "never" : plural(one.limit, "day", "days")}</td>
      <td className="text-right">{size(one.bytes)}</td>
      <td className="text-right">{size(one.perDay)}</td>
      <td className="text-right">{one.forecast === null ? "grows without end" : size(one.forecast)}</td>
      <td>
        <div className="h-2.5 rounded bg-inset" aria-hidden="true">
          <div className="relative h-full rounded bg-accent-wash" style={{ width: `${(100 * end) / most}%` }}>
            <div
              className="absolute inset-y-0 left-0 rounded bg-accent"
              style={{ width: `${Math.min(100, (100 * one.bytes) / Math.max(end, 1))}%` }}
            />
          </div>
        </div>
      </td>
    </tr>
  );
}
