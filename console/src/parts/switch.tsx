import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Thing } from "../api";
import { Button } from "../ui/button";

/** Opens or closes a lane, inlet or outlet. */
export function Switch({
  thing,
  name,
  closed,
  what,
}: {
  thing: Thing;
  name: string;
  closed: boolean;
  /** What closing means, for the hover. */
  what: string;
}) {
  const client = useQueryClient();
  const flip = useMutation({
    mutationFn: () => api.switchPart(thing, name, closed ? "open" : "close"),
    onSuccess: () => client.invalidateQueries(),
  });
  return (
    <>
      <Button
        look={closed ? "main" : "plain"}
        title={closed ? "Let it work again" : what}
        disabled={flip.isPending}
        onClick={() => flip.mutate()}
      >
        {closed ? "Open" : "Close"}
      </Button>
      {flip.isError && <span className="text-[13px] text-bad">{flip.error.message}</span>}
    </>
  );
}
