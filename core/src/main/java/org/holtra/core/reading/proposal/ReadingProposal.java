package org.holtra.core.reading.proposal;

import java.util.List;
import java.util.Map;

/**
 * How an arrival looks as if it should be read, for a person to accept or change.
 *
 * @param format what its content seems to be, in the setup's words; null if its content type says so already
 * @param parts lists in it whose items seem to be messages of their own
 * @param device where the device's key may stand, the likeliest first; likewise the others
 * @param time where the time of measurement may stand
 * @param payload where bytes for a codec may stand
 * @param sequence where the device's own number for a message may stand
 * @param fields the values in it, by place
 * @param trouble why nothing could be proposed; null if something could
 */
public record ReadingProposal(
        String format,
        List<Choice> parts,
        List<Choice> device,
        List<Choice> time,
        List<Choice> payload,
        List<Choice> sequence,
        Map<String, Object> fields,
        String trouble) {

    /**
     * @param expression that gives it
     * @param value that it gives for this arrival
     * @param why it was chosen, a phrase
     * @param with further settings that belong to it, such as {@code timeForm}
     */
    public record Choice(String expression, Object value, String why, Map<String, String> with) {}

    static ReadingProposal none(String trouble) {
        return new ReadingProposal(null, List.of(), List.of(), List.of(), List.of(), List.of(), Map.of(), trouble);
    }
}
