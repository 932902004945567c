package org.holtra.service.dispatch;

import java.time.Instant;
import org.holtra.core.delivery.Answer;
import org.holtra.core.introduction.StepOutcome;

/**
 * What came of asking a destination for something.
 *
 * @param usual what the answer means unless a recipe says otherwise
 * @param answer as it was read; null if none came
 * @param notBefore when the destination said to come back, or null
 */
public record Asked(StepOutcome usual, Answer answer, Instant notBefore, Exchange exchange) {}
