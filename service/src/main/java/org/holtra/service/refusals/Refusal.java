package org.holtra.service.refusals;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.Pattern;

/**
 * A call that an inlet refused. Whoever called is a stranger: each text is cut, and characters that steer a terminal or the
 * direction of text are taken out.
 *
 * @param inlet empty where the address is no inlet's
 * @param node that refused it
 * @param remote the caller's address
 * @param address what was called, secrets masked
 * @param code the answer, in its protocol's own words
 * @param slip what the sender did wrong, by name
 * @param text the slip in a sentence, with what to do
 * @param fields what came with the call, by name, secrets masked
 */
public record Refusal(
        Instant at,
        String inlet,
        String node,
        String remote,
        String address,
        String code,
        String slip,
        String text,
        Map<String, String> fields) {

    private static final int LONGEST_ADDRESS = 300;
    private static final int LONGEST_FIELD = 200;
    private static final int MOST_FIELDS = 30;

    /** Control characters, and those that override the direction of text (Unicode 16, section 23.2). */
    private static final Pattern STEERING = Pattern.compile("[\\p{Cntrl}\\u200E\\u200F\\u202A-\\u202E\\u2066-\\u2069]");

    public Refusal {
        remote = plain(remote, LONGEST_FIELD);
        address = plain(address, LONGEST_ADDRESS);
        text = plain(text, LONGEST_ADDRESS);
        Map<String, String> bounded = new LinkedHashMap<>();
        fields.entrySet().stream()
                .limit(MOST_FIELDS)
                .forEach(field ->
                        bounded.put(plain(field.getKey(), LONGEST_FIELD), plain(field.getValue(), LONGEST_FIELD)));
        if (fields.size() > MOST_FIELDS) {
            bounded.put("…", (fields.size() - MOST_FIELDS) + " more");
        }
        fields = bounded;
    }

    private static String plain(String text, int longest) {
        String cut = text.length() <= longest ? text : text.substring(0, longest) + "…";
        return STEERING.matcher(cut).replaceAll("\uFFFD");
    }
}
