package org.holtra.service.httpclient;

import java.time.Duration;
import java.time.Instant;
import org.apache.hc.client5.http.utils.DateUtils;
import org.holtra.core.delivery.Verdict;

/** What an HTTP status means for a delivery, unless the outlet says otherwise. */
public final class StatusVerdict {

    /** A destination that asks for a longer pause than this is asked again after it. */
    private static final Duration LONGEST_PAUSE = Duration.ofDays(1);

    private StatusVerdict() {}

    /**
     * @param retryAfter the header's value, or null
     * @param attempt counts the attempts of the delivery, from 1
     */
    public static Verdict of(int status, String retryAfter, int attempt, Instant now) {
        // The reason phrase is the destination's to choose, and may repeat the credential.
        String answered = "the destination answered " + status;
        if (status >= 200 && status < 300) {
            return new Verdict.Delivered();
        }
        if (status == 409 && attempt > 1) {
            // It has it already: an earlier attempt of ours arrived, though its answer did not.
            return new Verdict.Delivered();
        }
        if (status == 401) {
            return new Verdict.OutletBlocked(answered + ": it refuses the credential");
        }
        if (status == 403) {
            return new Verdict.DeviceHeld(answered + ": it refuses this device, or the credential lacks a permission");
        }
        if (status == 408 || status == 425 || status == 429 || status >= 500) {
            return new Verdict.TryLater(answered, notBefore(retryAfter, now), false, false);
        }
        if (status >= 300 && status < 400) {
            return new Verdict.Refused(answered + ": redirects are not followed; put the new address into the outlet");
        }
        return new Verdict.Refused(answered);
    }

    /** Retry-After in both its forms (RFC 9110, section 10.2.3); null if there is none, or none that can be read. */
    public static Instant notBefore(String retryAfter, Instant now) {
        if (retryAfter == null) {
            return null;
        }
        Instant latest = now.plus(LONGEST_PAUSE);
        try {
            long seconds = Math.min(Long.parseLong(retryAfter.strip()), LONGEST_PAUSE.toSeconds());
            return now.plusSeconds(Math.max(0, seconds));
        } catch (NumberFormatException e) {
            Instant date = DateUtils.parseStandardDate(retryAfter.strip());
            return date == null || !date.isAfter(latest) ? date : latest;
        }
    }
}
