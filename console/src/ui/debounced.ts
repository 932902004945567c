import { useEffect, useState } from "react";

/** A value once it has been still for a while, so that not every letter typed asks the service. */
export function useStill<T>(value: T, millis = 250): T {
  const [still, setStill] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setStill(value), millis);
    return () => clearTimeout(timer);
  }, [value, millis]);
  return still;
}
