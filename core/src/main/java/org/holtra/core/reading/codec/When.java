package org.holtra.core.reading.codec;

import java.util.List;
import java.util.Map;

/** A condition on the port or on fields read before: each must have one of the values named. */
record When(List<Test> tests) {

    static final When ALWAYS = new When(List.of());

    /** @param path of a field; null for the port */
    record Test(FieldName path, List<Object> values) {}

    boolean holds(Integer port, Map<?, ?> fields, Map<?, ?> root) {
        for (Test test : tests) {
            Object value = test.path == null ? port : value(test.path, fields, root);
            if (!among(value, test.values)) {
                return false;
            }
        }
        return true;
    }

    private static Object value(FieldName path, Map<?, ?> fields, Map<?, ?> root) {
        Object near = path.get(fields);
        return near == null && fields != root ? path.get(root) : near;
    }

    private static boolean among(Object value, List<Object> values) {
        for (Object wanted : values) {
            boolean same = value instanceof Number number && wanted instanceof Number other
                    ? number.doubleValue() == other.doubleValue()
                    : wanted.equals(value);
            if (same) {
                return true;
            }
        }
        return false;
    }
}
