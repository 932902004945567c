package org.holtra.core.setup;

import java.util.Map;
import org.holtra.core.delivery.Batch;
import org.holtra.core.delivery.Pace;
import org.holtra.core.delivery.VerdictRules;
import org.holtra.core.expression.Expression;
import org.holtra.core.introduction.Recipe;

/**
 * A way out.
 *
 * @param closed whether what is owed to it waits until it is opened
 * @param to what its kind needs to know
 * @param connection the one it shares with others; null if it shares none
 * @param preset the starting point it was made from, which knows what its destination refuses; or null
 * @param price what it costs; null if nobody said
 * @param manner how it sends, and what its destination's answers mean
 */
public record Outlet(
        String name,
        String kind,
        boolean closed,
        Map<String, Object> to,
        SharedConnection connection,
        String preset,
        Price price,
        Manner manner) {

    /**
     * @param batch null if each message goes by itself
     * @param recipe how devices are made known there before their first message; null if they need not be
     * @param credentialBy gives the name of the credential that a device's requests present; null for the outlet's own
     */
    public record Manner(VerdictRules verdicts, Pace pace, Batch batch, Recipe recipe, CredentialChoice credentialBy) {}

    /** Expression over {@code device} that gives the name of a credential. */
    public record CredentialChoice(Expression expression) {

        /** Choices that say the same are the same, compiled once or twice. */
        @Override
        public boolean equals(Object other) {
            return other instanceof CredentialChoice that && expression.source().equals(that.expression.source());
        }

        @Override
        public int hashCode() {
            return expression.source().hashCode();
        }
    }

    /** What chooses a credential by the device; null if one is presented for all. */
    public Expression credentialBy() {
        return manner.credentialBy == null ? null : manner.credentialBy.expression;
    }

    /**
     * What a destination charges, in a currency of one's own.
     *
     * @param megabyte for a million bytes of bodies
     * @param month whatever is sent
     * @param device for a month of each device that is known there
     */
    public record Price(String currency, double message, double megabyte, double month, double device) {

        /** For one month with so many messages and bytes, and so many devices there. */
        public double of(long messages, long bytes, long devices) {
            return month + messages * message + bytes / 1e6 * megabyte + devices * device;
        }
    }

    /** How devices are made known there; null if they need not be. */
    public Recipe recipe() {
        return manner.recipe;
    }

    /** The credential that it, or the connection it shares, presents; or null. Every kind's form calls it so. */
    public String credential() {
        return connection == null ? (String) to.get("credential") : connection.credential();
    }

    /** How many attempts may be under way at once. */
    public int concurrency() {
        return to.get("concurrency") instanceof Number number ? number.intValue() : 8;
    }
}
