import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, type Fields, type Part, type Thing } from "../api";
import { useStill } from "../ui/debounced";

export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/**
 * What is typed is kept as a draft, so that neither a closed window nor another person loses it.
 *
 * @param part that is changed; undefined as long as it has no name yet, and then nothing is kept
 * @returns what was typed a moment ago, and how the draft stands, in words
 */
export function useDraft(thing: Thing, part: Part | undefined, content: Fields, basedOn: string) {
  const still = useStill(content, 800);
  const save = useMutation({
    mutationFn: (typed: Fields) => api.saveDraft(thing, part?.name ?? "", typed, basedOn),
  });
  const mine = part?.drafts.find((draft) => draft.mine);
  const saveNow = save.mutate;
  useEffect(() => {
    // What was typed before it was discarded is not kept again.
    if (!part || !same(still, content)) return;
    if (!same(still, part.content) && !same(still, mine?.content)) saveNow(still);
  }, [still, content, part, mine?.content, saveNow]);
  const changed = part !== undefined && !same(content, part.content);
  const kept = save.isPending || !same(still, content) ? "keeping the draft…" : "draft kept";
  return { still, changed, error: save.error, kept };
}
