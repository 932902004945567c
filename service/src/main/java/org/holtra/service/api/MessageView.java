package org.holtra.service.api;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.holtra.service.history.LaneState;
import org.holtra.service.journal.entry.StoredMessage;

/**
 * A message in a list.
 *
 * @param state {@code read}, {@code unreadable}, {@code unclaimed}, {@code deferred} (it waits to be read), {@code duplicate}
 *     or {@code whole} (taken apart into messages)
 * @param reason why it is unreadable, or a note on how it was read
 * @param sequence the device's own number for it, or null
 * @param duplicateOf the message it is a duplicate of, or null
 * @param preview the beginning of its body as text
 * @param lanes that took it, and where each delivery stands
 */
record MessageView(
        String id,
        Instant received,
        String inlet,
        String device,
        Instant eventTime,
        String type,
        String state,
        String reason,
        boolean simulated,
        Long sequence,
        String duplicateOf,
        int bytes,
        String preview,
        List<LaneView> lanes) {

    /** @param state {@code waiting}, {@code delivered}, {@code dead} or {@code dropped} */
    record LaneView(String lane, String state, int attempts) {}

    private static final int PREVIEW = 160;

    static MessageView of(StoredMessage message, Map<UUID, List<LaneState>> states) {
        List<LaneState> known = states.getOrDefault(message.id().value(), List.of());
        List<LaneView> lanes = message.lanes().stream()
                .map(lane -> {
                    Optional<LaneState> state = known.stream()
                            .filter(one -> one.lane().equals(lane))
                            .findFirst();
                    return new LaneView(
                            lane,
                            state.map(LaneState::state).orElse("waiting"),
                            state.map(LaneState::attempts).orElse(0));
                })
                .toList();
        byte[] body = message.arrival().body();
        return new MessageView(
                message.id().toString(),
                message.id().received(),
                message.arrival().inlet(),
                message.device(),
                message.eventTime(),
                message.type(),
                message.state(),
                message.reason(),
                message.simulated(),
                message.sequence(),
                message.duplicateOf() == null ? null : message.duplicateOf().toString(),
                body.length,
                preview(body),
                lanes);
    }

    private static String preview(byte[] body) {
        String text =
                new String(body, 0, Math.min(body.length, PREVIEW * 2), StandardCharsets.UTF_8).replaceAll("\\s+", " ");
        return text.length() <= PREVIEW ? text : text.substring(0, PREVIEW);
    }

    /** The bytes as text, or null if they are not UTF-8. */
    static String text(byte[] bytes) {
        if (bytes == null) {
            return null;
        }
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(bytes))
                    .toString();
        } catch (CharacterCodingException e) {
            return null;
        }
    }
}
