package org.holtra.service.credentials;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import tools.jackson.databind.json.JsonMapper;

/**
 * Takes secrets out of texts of others, in every form in which they are usually repeated: as they are, percent-encoded, as a
 * JSON string, in base64 at any place of a longer text, and in hexadecimal.
 */
public final class SecretMask {

    public static final String MASK = "•••";

    /** A shorter piece of base64 stands in texts by chance. */
    private static final int SHORTEST_PIECE = 6;

    private final List<String> forms;

    public SecretMask(List<String> secrets) {
        this(formsOf(secrets));
    }

    private static Set<String> formsOf(List<String> secrets) {
        Set<String> all = new LinkedHashSet<>();
        secrets.stream().filter(secret -> !secret.isEmpty()).forEach(secret -> add(secret, all));
        return all;
    }

    private SecretMask(Set<String> all) {
        // The longest first: a form may hold another.
        forms = all.stream()
                .sorted(Comparator.comparingInt(String::length).reversed())
                .toList();
    }

    /** Takes the secrets of both out. */
    public SecretMask and(SecretMask other) {
        Set<String> all = new LinkedHashSet<>(forms);
        all.addAll(other.forms);
        return new SecretMask(all);
    }

    private static void add(String secret, Set<String> all) {
        byte[] bytes = secret.getBytes(StandardCharsets.UTF_8);
        String form = URLEncoder.encode(secret, StandardCharsets.UTF_8);
        String json = JsonMapper.shared().writeValueAsString(secret);
        String hex = HexFormat.of().formatHex(bytes);
        all.add(secret);
        all.add(form);
        all.add(form.replace("+", "%20"));
        all.add(lowerEscapes(form));
        all.add(lowerEscapes(form.replace("+", "%20")));
        all.add(json.substring(1, json.length() - 1));
        all.add(json.substring(1, json.length() - 1).replace("/", "\\/"));
        if (bytes.length >= 4) {
            all.add(hex);
            all.add(hex.toUpperCase(Locale.ROOT));
        }
        for (int before = 0; before < 3; before++) {
            String piece = piece(bytes, before);
            if (piece.length() >= SHORTEST_PIECE) {
                all.add(piece);
                all.add(piece.replace('+', '-').replace('/', '_'));
            }
        }
    }

    /** What of the base64 of a longer text is these bytes alone, if so many bytes stand before them (modulo three). */
    private static String piece(byte[] bytes, int before) {
        byte[] padded = new byte[before + bytes.length];
        System.arraycopy(bytes, 0, padded, before, bytes.length);
        String encoded = Base64.getEncoder().withoutPadding().encodeToString(padded);
        int from = (before * 8 + 5) / 6;
        int to = padded.length * 8 / 6;
        return encoded.substring(Math.min(from, to), to);
    }

    private static String lowerEscapes(String encoded) {
        StringBuilder lower = new StringBuilder(encoded);
        for (int i = 0; i + 2 < lower.length(); i++) {
            if (lower.charAt(i) == '%') {
                lower.setCharAt(i + 1, Character.toLowerCase(lower.charAt(i + 1)));
                lower.setCharAt(i + 2, Character.toLowerCase(lower.charAt(i + 2)));
            }
        }
        return lower.toString();
    }

    /** @param text may be null */
    public String masked(String text) {
        if (text == null) {
            return null;
        }
        String masked = text;
        for (String form : forms) {
            masked = masked.replace(form, MASK);
        }
        return masked;
    }
}
