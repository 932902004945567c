import { useStatus } from "./own-troubles";

/** Said beside what each node knows of its own work only; nothing where there is one node. */
export function OnThisNode() {
  const { data } = useStatus();
  const self = data?.nodes.find((node) => node.self);
  if (!data || data.nodes.length < 2 || !self) return null;
  return (
    <span
      className="font-normal text-[12px] text-ink-soft"
      title={`There are ${data.nodes.length} nodes; the others tell of theirs.`}
    >
      {" "}
      on node {self.name} only
    </span>
  );
}
