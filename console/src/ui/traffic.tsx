import { Bar, BarChart, YAxis } from "recharts";
import type { LaneRow } from "../api";
import { plural } from "../words";

/** A lane's last hour, a bar a minute: what it delivered above the line, failed attempts in the signal colour on top. */
export function Traffic({ traffic }: { traffic: LaneRow["traffic"] }) {
  const minutes = traffic.taken.map((taken, minute) => ({
    minute,
    delivered: traffic.delivered[minute] ?? 0,
    failed: traffic.failed[minute] ?? 0,
    taken,
  }));
  const sum = (counts: number[]) => counts.reduce((a, b) => a + b, 0);
  const failed = sum(traffic.failed);
  const label = `Last hour: ${plural(sum(traffic.taken), "message", "messages")} taken, ${sum(traffic.delivered)} delivered${failed > 0 ? `, ${plural(failed, "attempt", "attempts")} failed` : ""}`;
  const highest = Math.max(4, ...minutes.map((one) => one.delivered + one.failed));
  return (
    <div role="img" aria-label={label} title={label} className="border-b border-rule-strong/60">
      <BarChart
        width={180}
        height={30}
        data={minutes}
        barCategoryGap={1}
        margin={{ top: 2, right: 0, bottom: 0, left: 0 }}
        accessibilityLayer={false}
      >
        <YAxis hide domain={[0, highest]} />
        <Bar dataKey="delivered" stackId="lane" fill="var(--accent)" isAnimationActive={false} />
        <Bar dataKey="failed" stackId="lane" fill="var(--bad)" isAnimationActive={false} />
      </BarChart>
    </div>
  );
}
