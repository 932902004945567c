package org.holtra.service.introducing;

import java.util.List;

/**
 * Which devices: one of the parts says it, and none means all.
 *
 * @param where condition over {@code device}; or null
 * @param keys or null
 * @param pattern of keys, in which {@code *} stands for any text; or null
 */
public record DeviceChoice(String where, List<String> keys, String pattern) {

    public static final DeviceChoice ALL = new DeviceChoice(null, null, null);
}
