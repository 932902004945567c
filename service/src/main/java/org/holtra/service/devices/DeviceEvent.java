package org.holtra.service.devices;

import java.time.Instant;
import java.util.Map;

/**
 * Something that happened to a device, told once by the node that saw it.
 *
 * @param more what else there is to say, by name
 */
public record DeviceEvent(String device, What what, Instant at, Map<String, Object> more) {

    public enum What {
        APPEARED("appeared"),
        SILENT("silent"),
        BACK("back"),
        BARRED("barred"),
        UNBARRED("unbarred"),
        FACTS_CHANGED("facts changed"),
        /** Its destination refuses it for now. */
        HELD_AT_OUTLET("held at an outlet"),
        /** It was introduced there. */
        KNOWN_AT_OUTLET("known at an outlet");

        private final String word;

        What(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }
}
