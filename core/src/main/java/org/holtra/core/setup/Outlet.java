package org.holtra.core.setup;

import java.util.Map;

/**
 * A way out.
 *
 * @param to what its kind needs to know
 */
public record Outlet(String name, String kind, Map<String, Object> to) {

    /** The credential it presents, or null. Every kind's form calls it so. */
    public String credential() {
        return (String) to.get("credential");
    }

    /** How many attempts may be under way at once. */
    public int concurrency() {
        return to.get("concurrency") instanceof Number number ? number.intValue() : 8;
    }
}
