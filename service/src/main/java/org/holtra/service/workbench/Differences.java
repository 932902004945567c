package org.holtra.service.workbench;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.holtra.core.shape.Content;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/** What is different between two contents, field by field. */
final class Differences {

    /**
     * @param field such as {@code body.items[2].level}
     * @param was null if it was not there
     * @param now null if it is not there
     */
    record Difference(String field, String was, String now) {}

    private static final int MOST = 30;
    private static final JsonMapper JSON = JsonMapper.shared();

    private Differences() {}

    static boolean same(Content was, Content now) {
        return Arrays.equals(was.body(), now.body())
                && was.envelope().equals(now.envelope())
                && Objects.equals(was.contentType(), now.contentType());
    }

    static List<Difference> between(Content was, Content now) {
        Map<String, String> before = flat(was);
        Map<String, String> after = flat(now);
        Set<String> names = new LinkedHashSet<>(before.keySet());
        names.addAll(after.keySet());
        List<Difference> found = new ArrayList<>();
        for (String name : names) {
            if (!Objects.equals(before.get(name), after.get(name)) && found.size() < MOST) {
                found.add(new Difference(name, before.get(name), after.get(name)));
            }
        }
        return found;
    }

    private static Map<String, String> flat(Content content) {
        Map<String, String> flat = new LinkedHashMap<>();
        flat.putAll(content.envelope().texts());
        content.envelope()
                .named()
                .forEach((name, values) -> values.forEach(one -> flat.put(name + "." + one.getKey(), one.getValue())));
        flat.put("contentType", String.valueOf(content.contentType()));
        try {
            flatten("body", JSON.readValue(content.body(), Object.class), flat);
        } catch (JacksonException e) {
            flat.put("body", new String(content.body(), StandardCharsets.UTF_8)); // it is no JSON, and told as a whole
        }
        return flat;
    }

    private static void flatten(String path, Object value, Map<String, String> flat) {
        switch (value) {
            case Map<?, ?> map -> map.forEach((name, inner) -> flatten(path + "." + name, inner, flat));
            case List<?> list -> {
                for (int at = 0; at < list.size(); at++) {
                    flatten(path + "[" + at + "]", list.get(at), flat);
                }
            }
            case null, default -> flat.put(path, JSON.writeValueAsString(value));
        }
    }
}
