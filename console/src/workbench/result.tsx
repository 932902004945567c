import { useMutation } from "@tanstack/react-query";
import { Link } from "wouter";
import { api, type Explanation, type Tried, type TriedRequest, type Trying } from "../api";
import { requestText } from "../request-text";
import { Button } from "../ui/button";
import { Code } from "../ui/code";
import { Confirm } from "../ui/confirm";
import { Mark } from "../ui/mark";
import { Panel } from "../ui/panel";
import { laidOut, size, took, unitWord } from "../words";

/** What the lane makes of the message. */
export function ResultPanel({
  name,
  outlet,
  trying,
  tried,
  waiting,
}: {
  name: string;
  outlet: string;
  trying: Trying | null;
  tried: Tried | undefined;
  waiting: boolean;
}) {
  const picked = tried?.subject && tried.whyNot === null;
  return (
    <Panel
      title="Result"
      aside={
        tried?.subject && (
          <Mark state={picked ? "picked" : "not picked"} label={picked ? "picked" : "not picked"} />
        )
      }
    >
      <div aria-live="polite" className={`space-y-3 px-4 py-3 ${waiting ? "opacity-60" : ""}`}>
        {!tried && <p className="text-ink-soft">Choose a message, and see here what the lane makes of it.</p>}
        {tried && tried.problems.length > 0 && (
          <p className="text-bad">
            The lane has {tried.problems.length === 1 ? "an error" : "errors"}; the result comes back when{" "}
            {tried.problems.length === 1 ? "it is" : "they are"} mended.
          </p>
        )}
        {tried?.whyNot && (
          <p className="rounded bg-inset px-2.5 py-1.5 text-[13px]">
            <span className="font-medium">Why not:</span> {tried.whyNot}
          </p>
        )}
        {tried?.becomes && (
          <p className="rounded bg-inset px-2.5 py-1.5 text-[13px]">
            <span className="font-medium">In its memory:</span> {tried.becomes}
          </p>
        )}
        {tried?.explanation && <Explained whole={tried.explanation} />}
        {tried?.warnings.map((warning) => (
          <p key={warning} className="rounded bg-wait-wash px-2.5 py-1.5 text-[13px] text-wait">
            {warning}
          </p>
        ))}
        {tried?.requests.map((request) => (
          <Request
            key={request.point ?? ""}
            request={request}
            name={name}
            outlet={outlet}
            trying={trying}
            picked={Boolean(picked)}
          />
        ))}
      </div>
    </Panel>
  );
}

/** The condition, part by part, with what each part came to. */
function Explained({ whole }: { whole: Explanation }) {
  return (
    <div>
      <h3 className="mb-1 text-[12px] font-medium text-ink-faint">the condition, part by part</h3>
      <ul className="text-[12.5px]">
        <PartLine part={whole} depth={0} />
      </ul>
    </div>
  );
}

/** A value whose unit is written as people write it. */
const withUnit = (value: string | null) =>
  value?.replace(/ (\S+)$/, (_, unit: string) => ` ${unitWord(unit)}`) ?? "";

function PartLine({ part, depth }: { part: Explanation; depth: number }) {
  const truth = part.truth === null ? "" : part.truth ? "text-good" : "text-bad";
  return (
    <>
      <li
        className="flex items-baseline gap-2 border-b border-rule py-0.5"
        style={{ paddingLeft: `${depth * 14}px` }}
      >
        <code className="grow font-mono text-[12px] break-all">{part.source}</code>
        <span className={`shrink-0 text-right ${part.whyNone ? "text-wait" : truth}`}>
          {part.whyNone ? "no value" : withUnit(part.value)}
        </span>
      </li>
      {part.whyNone && part.parts.length === 0 && (
        <li className="pb-0.5 text-[12px] text-wait" style={{ paddingLeft: `${depth * 14 + 14}px` }}>
          {part.whyNone}
        </li>
      )}
      {part.parts.map((inner) => (
        <PartLine key={inner.source} part={inner} depth={depth + 1} />
      ))}
    </>
  );
}

function Request({
  request,
  name,
  outlet,
  trying,
  picked,
}: {
  request: TriedRequest;
  name: string;
  outlet: string;
  trying: Trying | null;
  picked: boolean;
}) {
  const send = useMutation({
    mutationFn: () => api.trial(name, { ...(trying as Trying), point: request.point }),
  });
  const title = request.point ? `request for point ${request.point}` : "request";
  if (request.failure)
    return (
      <div>
        <h3 className="mb-1 text-[12px] font-medium text-ink-faint">{title}</h3>
        <p className="rounded bg-bad-wash px-2.5 py-1.5 text-[13px] text-bad">
          <span className="font-mono text-[12px]">{request.failedAt}</span> cannot be filled:{" "}
          {request.failure}
        </p>
      </div>
    );
  return (
    <div>
      <h3 className="mb-1 flex items-baseline text-[12px] font-medium text-ink-faint">
        {title}
        {!picked && ", as it would be if it were picked"}
        <span className="ml-auto">body {size(request.size)}</span>
      </h3>
      <Code
        label="Request"
        text={requestText(
          request.summary ?? "",
          request.fields,
          laidOut(request.text ?? request.base64 ?? ""),
        )}
      />
      <div className="mt-2 flex flex-wrap items-center gap-2 text-[13px]">
        <Confirm
          trigger={<Button disabled={send.isPending || !trying}>Send this one</Button>}
          title={`Send this to ${outlet}?`}
          action="Send"
          onConfirm={() => send.mutate()}
        >
          It really goes out, marked as a trial, and the message's trace will tell of it. Nothing else
          changes.
        </Confirm>
        <span role="status">
          {send.isError && <span className="text-bad">{send.error.message}</span>}
          {send.data && (
            <>
              <Mark state={send.data.verdict} /> {send.data.code && `answered ${send.data.code} `}in{" "}
              {took(send.data.micros)}{" "}
              <Link
                href={`/messages/${send.data.message}`}
                className="text-accent underline underline-offset-2"
              >
                its trace
              </Link>
              {send.data.reason && <span className="block text-ink-soft">{send.data.reason}</span>}
            </>
          )}
        </span>
      </div>
    </div>
  );
}
