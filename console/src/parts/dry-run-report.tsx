import type { DryRun } from "../api";
import { count, money, plural } from "../words";

/** What introducing devices would come to. */
export function Report({ report }: { report: DryRun }) {
  const counts = Object.entries(report.counts);
  return (
    <div className="space-y-1.5 text-[13px]">
      <p>
        Of {plural(report.chosen, "device", "devices")}
        {report.lookedAt < report.chosen && `, the first ${count(report.lookedAt)}`}:{" "}
        <strong>
          {counts.map(([fate, number]) => `${fate} ${count(number)}`).join(", ") || "none fits"}
        </strong>
        .
        {report.monthly !== null &&
          ` Those to be created cost ${money(report.monthly, report.currency)} a month.`}{" "}
        Nothing was changed there.
      </p>
      <ul className="max-h-40 overflow-auto text-ink-soft">
        {report.findings.map((one) => (
          <li key={one.device}>
            <span className="font-mono text-[12.5px] text-ink">{one.device}</span> {one.fate}
            {one.reason && `: ${one.reason}`}
          </li>
        ))}
      </ul>
    </div>
  );
}
