package org.holtra.core.setup;

import java.util.Map;

/**
 * What several inlets and outlets share, such as a broker: its address and its credential are said once.
 *
 * @param to what its kind needs to know
 */
public record SharedConnection(String name, String kind, Map<String, Object> to) {

    /** The credential that it is opened with, or null. Every kind's form calls it so. */
    public String credential() {
        return (String) to.get("credential");
    }
}
