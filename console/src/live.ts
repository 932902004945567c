import { useEffect, useRef, useState } from "react";
import type { DeliveryState, Message } from "./api";

export type LiveDelivery = { message: string; lane: string; state: DeliveryState; attempts: number };

export type LiveHandlers = {
  message?: (message: Message) => void;
  delivery?: (delivery: LiveDelivery) => void;
  missed?: (count: number) => void;
  /** Something may have happened unheard: the stream has just been opened, again or for the first time, or left some out. */
  refresh?: () => void;
};

/** Listens to what happens as it happens. The browser comes back by itself when the stream breaks. */
export function useLive(handlers: LiveHandlers): "live" | "reconnecting" {
  const [state, setState] = useState<"live" | "reconnecting">("reconnecting");
  const latest = useRef(handlers);
  latest.current = handlers;

  useEffect(() => {
    const source = new EventSource("/api/v1/live");
    source.onopen = () => {
      setState("live");
      latest.current.refresh?.();
    };
    source.onerror = () => setState("reconnecting");
    source.addEventListener("message", (event) => {
      // Comments and unnamed events come under this name too; only ours carry an id.
      if (event.data) latest.current.message?.(JSON.parse(event.data));
    });
    source.addEventListener("delivery", (event) => latest.current.delivery?.(JSON.parse(event.data)));
    source.addEventListener("missed", (event) => {
      latest.current.missed?.(JSON.parse(event.data).count);
      latest.current.refresh?.();
    });
    return () => source.close();
  }, []);

  return state;
}
