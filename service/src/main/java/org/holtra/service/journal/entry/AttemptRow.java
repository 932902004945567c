package org.holtra.service.journal.entry;

import java.time.Instant;
import java.util.UUID;

/**
 * One try of a delivery.
 *
 * @param number counts the attempts of the delivery, from 1
 * @param at when it began
 * @param micros how long it took
 * @param code what the destination answered in its protocol's own words; null if nothing came
 * @param request what was sent, in the words of the outlet's kind, with secrets masked; JSON
 * @param requestBody the body sent, byte for byte
 * @param answer the beginning of what came back, or null if nothing did
 * @param point of the device that it was about; null if it was about the message as a whole
 * @param replay the name of the replay it was made for, or null
 * @param trial whether a person sent it to see what comes back, which settles nothing
 */
public record AttemptRow(
        UUID delivery,
        UUID message,
        Instant received,
        String lane,
        String outlet,
        int number,
        Instant at,
        long micros,
        String verdict,
        String reason,
        String code,
        Instant nextTry,
        int setupRevision,
        byte[] request,
        byte[] requestBody,
        byte[] answer,
        String point,
        boolean trial,
        String replay) {}
