import { useEffect, useState } from "react";
import { exactTime, since, time } from "../words";

/** A time of day in the viewer's zone; the exact instant on hover. */
export function Time({ instant }: { instant: string }) {
  return (
    <time dateTime={instant} title={instant} className="whitespace-nowrap">
      {time(instant)}
    </time>
  );
}

/** An instant with date and zone, where it is the point and not one of many. */
export function ExactTime({ instant }: { instant: string }) {
  return (
    <time dateTime={instant} title={instant}>
      {exactTime(instant)}
    </time>
  );
}

/** How long ago, kept up to date; the exact instant on hover. */
export function Since({ instant }: { instant: string }) {
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 1000);
    return () => clearInterval(timer);
  }, []);
  return (
    <time dateTime={instant} title={instant} className="whitespace-nowrap">
      {since(instant)}
    </time>
  );
}
