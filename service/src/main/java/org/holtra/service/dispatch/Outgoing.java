package org.holtra.service.dispatch;

import java.util.List;
import org.holtra.core.shape.Content;

/**
 * What is to be sent.
 *
 * @param idempotencyKey the same for every attempt of the delivery
 * @param corrects the key of the delivery that this one corrects, or null
 * @param traceparent of this attempt, as W3C Trace Context has it
 * @param simulated whether the message comes from a simulated device
 * @param attempt counts the attempts of the delivery, from 1
 * @param replays the key of the delivery that this one makes again, or null
 * @param trial whether a person sends it to see what comes back
 * @param together the keys of the deliveries whose contents stand in it, in order; empty where an outlet sends each by
 *     itself
 */
public record Outgoing(
        Content content,
        String idempotencyKey,
        String corrects,
        String traceparent,
        boolean simulated,
        int attempt,
        boolean trial,
        String replays,
        List<String> together) {}
