package org.holtra.core.shape;

import java.util.List;
import java.util.Map;

/**
 * What a shape makes of a message, before an outlet adds its own.
 *
 * @param path to be appended to the outlet's address, already encoded; empty for none
 * @param query parameters, already encoded, in order
 * @param headers by name as written
 */
public record Content(
        String path,
        List<Map.Entry<String, String>> query,
        Map<String, String> headers,
        String contentType,
        byte[] body) {}
