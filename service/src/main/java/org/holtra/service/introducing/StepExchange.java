package org.holtra.service.introducing;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ThreadLocalRandom;
import org.holtra.core.delivery.Verdict;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.RecipeStep;
import org.holtra.core.introduction.StepOutcome;
import org.holtra.core.message.MessageIds;
import org.holtra.core.message.TraceContext;
import org.holtra.core.setup.Outlet;
import org.holtra.core.shape.Content;
import org.holtra.core.shape.ShapeFailure;
import org.holtra.service.credentials.SecretMask;
import org.holtra.service.dispatch.Asked;
import org.holtra.service.dispatch.Exchange;
import org.holtra.service.dispatch.NotPresented;
import org.holtra.service.dispatch.Presenting;
import org.holtra.service.dispatch.Request;
import org.holtra.service.dispatch.Sink;
import org.springframework.stereotype.Component;

/** Makes the exchange of one step of a recipe. */
@Component
class StepExchange {

    private final MessageIds ids;
    private final Presenting presenting;

    StepExchange(MessageIds ids, Presenting presenting) {
        this.ids = ids;
        this.presenting = presenting;
    }

    /**
     * What came of a step.
     *
     * @param body that was sent
     * @param exchange in which no secret is left, not even one that the answer brought
     * @param asked the answer as it came
     */
    record Made(RecipeStep.Result result, byte[] body, Exchange exchange, Asked asked) {}

    /** What would be sent. */
    record Preview(Exchange exchange, byte[] body) {}

    /**
     * @param outlet as it is, or as somebody wants it to be
     * @param key the same whenever the same is asked for the same device once more
     * @throws ShapeFailure if something that the step reads of the device is not known
     */
    Made make(Outlet outlet, RecipeStep step, Scope scope, String key, int attempt, Sink sink) throws ShapeFailure {
        Content content = step.shape().fill(scope);
        Asked asked = asked(outlet, request(content, key, attempt), scope, sink);
        RecipeStep.Result result = step.judge(asked.usual(), asked.answer(), scope, asked.notBefore());
        return new Made(
                result,
                content.body(),
                masked(asked.exchange(), result.learned().secret()),
                asked);
    }

    private Asked asked(Outlet outlet, Request request, Scope scope, Sink sink) {
        try {
            return sink.ask(request.presenting(presenting.of(outlet, null, scope)));
        } catch (NotPresented e) {
            StepOutcome outcome = e.verdict() instanceof Verdict.TryLater
                    ? new StepOutcome.TryLater(e.getMessage(), null, false)
                    : e.verdict() instanceof Verdict.DeviceHeld
                            ? new StepOutcome.Refused(StepOutcome.Why.OTHER, e.getMessage())
                            : new StepOutcome.Blocked(e.getMessage());
            return new Asked(outcome, null, null, new Exchange("nothing was sent", Map.of()));
        }
    }

    /**
     * @throws ShapeFailure if something that the step reads of the device is not known
     * @throws IllegalArgumentException if it cannot be sent, with a sentence for people
     */
    Preview preview(Outlet outlet, RecipeStep step, Scope scope, Sink sink) throws ShapeFailure {
        Content content = step.shape().fill(scope);
        Request request = request(content, outlet.name(), 1).presenting(presenting.shown(outlet, null));
        return new Preview(sink.preview(request), content.body());
    }

    private Request request(Content content, String key, int attempt) {
        String traceparent = TraceContext.of(ids.next(), null)
                .traceparent(Long.toHexString(ThreadLocalRandom.current().nextLong() | Long.MIN_VALUE));
        UUID idempotencyKey = UUID.nameUUIDFromBytes(key.getBytes(StandardCharsets.UTF_8));
        return Request.of(
                new Request.Part(content, idempotencyKey.toString()),
                traceparent,
                attempt,
                Request.Marks.tried(false, false, false));
    }

    private static Exchange masked(Exchange exchange, String secret) {
        if (secret == null || exchange.answer() == null) {
            return exchange;
        }
        String answer = new SecretMask(List.of(secret)).masked(new String(exchange.answer(), StandardCharsets.UTF_8));
        return exchange.answered(answer.getBytes(StandardCharsets.UTF_8));
    }
}
