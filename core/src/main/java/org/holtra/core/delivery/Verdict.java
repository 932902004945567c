package org.holtra.core.delivery;

import java.time.Instant;

/** What an attempt means. Each but the first says why in a sentence. */
public sealed interface Verdict {

    String word();

    /** Why, in words; null where there is nothing to explain. */
    String reason();

    record Delivered() implements Verdict {
        @Override
        public String word() {
            return "delivered";
        }

        @Override
        public String reason() {
            return null;
        }
    }

    /**
     * @param notBefore when the destination said to come back, or null
     * @param unknown whether the request was sent and no answer came, so that it may have taken effect
     * @param broken whether the destination could not be reached at all, or the connection broke
     */
    record TryLater(String reason, Instant notBefore, boolean unknown, boolean broken) implements Verdict {
        @Override
        public String word() {
            return "try later";
        }
    }

    record Refused(String reason) implements Verdict {
        @Override
        public String word() {
            return "refused";
        }
    }

    record DeviceHeld(String reason) implements Verdict {
        @Override
        public String word() {
            return "device held";
        }
    }

    /** The destination has no such device: it is introduced there, and then the delivery is tried again. */
    record DeviceUnknown(String reason) implements Verdict {
        @Override
        public String word() {
            return "device unknown";
        }
    }

    record OutletBlocked(String reason) implements Verdict {
        @Override
        public String word() {
            return "outlet blocked";
        }
    }
}
