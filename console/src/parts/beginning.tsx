import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useLocation } from "wouter";
import { api } from "../api";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Empty, Panel } from "../ui/panel";

/** What to do with an instance that has nothing yet: make a first inlet, or look around in a sample. */
export function Beginning() {
  const client = useQueryClient();
  const [, go] = useLocation();
  const load = useMutation({
    mutationFn: api.loadSample,
    onSuccess: async () => {
      await client.invalidateQueries();
      go("/messages");
    },
  });
  return (
    <Panel>
      <Empty title="Nothing here yet">
        <p>
          An inlet takes messages in, a lane picks and shapes them, an outlet delivers them. Begin with the
          inlet: you get an address and a secret for the sender, and see what comes as it comes.
        </p>
        <p className="mt-4 flex flex-wrap items-center justify-center gap-3">
          <Button look="main" onClick={() => go("/inlets/new")}>
            Make an inlet
          </Button>
          <Button disabled={load.isPending} onClick={() => load.mutate()}>
            Load a sample
          </Button>
        </p>
        <p className="mt-2 text-[13px]">
          The sample is six made-up climate stations of an orchard, with a lane and a frost lookout. It can be
          removed again in one act.
        </p>
        {load.isError && (
          <p role="alert" className="mt-2 text-bad">
            {load.error.message}
          </p>
        )}
      </Empty>
    </Panel>
  );
}

/** Says that the sample is loaded, and removes it. */
export function SampleLoaded() {
  const client = useQueryClient();
  const sample = useQuery({ queryKey: ["sample"], queryFn: api.sample });
  const remove = useMutation({
    mutationFn: api.removeSample,
    onSuccess: () => client.invalidateQueries(),
  });
  if (!sample.data || sample.data.parts.length === 0) return null;
  return (
    <div className="flex flex-wrap items-center gap-3 rounded border border-rule bg-inset px-4 py-2 text-[13px]">
      <span>
        The sample is loaded: made-up stations send by{" "}
        <Link href="/inlets/sample-stations" className="text-accent underline underline-offset-2">
          sample-stations
        </Link>
        . Your own begins with{" "}
        <Link href="/inlets/new" className="text-accent underline underline-offset-2">
          an inlet
        </Link>
        .
      </span>
      <span className="ml-auto">
        <Confirm
          trigger={<Button>Remove sample</Button>}
          title="Remove the sample?"
          action="Remove"
          onConfirm={remove.mutate}
        >
          Its inlet, lane, outlet, lookout, model and devices are removed. Its messages stay until they are
          old, marked as simulated.
        </Confirm>
      </span>
      {remove.isError && (
        <p role="alert" className="basis-full text-bad">
          {remove.error.message}
        </p>
      )}
    </div>
  );
}
