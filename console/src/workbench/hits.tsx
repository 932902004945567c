import { useQuery } from "@tanstack/react-query";
import { api, type Fields } from "../api";
import { useStill } from "../ui/debounced";
import { Since } from "../ui/time";
import { brief, count, figure, unitWord } from "../words";

/** How often the condition would have been true lately, and what its fields were. */
export function HitsLine({
  name,
  lane,
  onSubject,
}: {
  name: string;
  lane: Fields;
  onSubject: (message: string) => void;
}) {
  const asked = useStill(
    JSON.stringify({ inlets: lane.inlets, devices: lane.devices, pick: lane.pick, per: lane.per }),
    350,
  );
  const inlets = (lane.inlets as string[] | undefined) ?? [];
  const hits = useQuery({
    queryKey: ["workbench", "hits", name, asked],
    queryFn: () => api.hits(name, JSON.parse(asked)),
    enabled: inlets.length > 0,
    placeholderData: (before) => before,
    refetchInterval: 10_000,
    retry: false,
  });
  const found = hits.data?.hits;
  if (hits.isPending && hits.fetchStatus !== "idle")
    return <p className="text-[12.5px] text-ink-faint">looking at the last messages…</p>;
  if (!found) return null;
  const share = found.looked === 0 ? 0 : found.taken / found.looked;
  const link = "text-accent underline underline-offset-2";
  return (
    <div className="space-y-1.5 text-[12.5px]">
      <div className="flex items-center gap-2">
        <span
          className="h-2 w-24 shrink-0 overflow-hidden rounded-full bg-inset"
          role="img"
          aria-label={`${Math.round(share * 100)} per cent`}
        >
          <span
            className="block h-full bg-accent"
            style={{ width: `${found.taken === 0 ? 0 : Math.max(2, share * 100)}%` }}
          />
        </span>
        <span>
          would have taken <strong>{count(found.taken)}</strong> of the last {count(found.looked)} messages
          {found.since && (
            <span className="text-ink-soft">
              {" "}
              (since <Since instant={found.since} />)
            </span>
          )}
          {found.example && (
            <>
              {" · "}
              <button type="button" className={link} onClick={() => onSubject(found.example ?? "")}>
                one it takes
              </button>
            </>
          )}
          {found.counter && (
            <>
              {" · "}
              <button type="button" className={link} onClick={() => onSubject(found.counter ?? "")}>
                one it does not
              </button>
            </>
          )}
        </span>
      </div>
      {found.fields.length > 0 && (
        <table className="w-full">
          <tbody>
            {found.fields.map((field) => (
              <tr key={field.field} className="border-t border-rule">
                <td className="py-0.5 pr-2 font-mono text-[11.5px]">{field.field}</td>
                <td className="py-0.5 text-ink-soft">
                  {field.seen === 0 ? (
                    <span className="text-wait">never seen</span>
                  ) : field.min !== null && field.max !== null ? (
                    `${figure(field.min)} to ${figure(field.max)}${field.unit ? ` ${unitWord(field.unit)}` : ""}`
                  ) : field.values ? (
                    Object.entries(field.values)
                      .map(([value, times]) => `${value} ×${count(times)}`)
                      .join(", ")
                  ) : (
                    `last ${brief(field.last)}`
                  )}
                </td>
                <td className="py-0.5 text-right text-ink-faint">in {count(field.seen)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
