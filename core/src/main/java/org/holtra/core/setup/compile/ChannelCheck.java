package org.holtra.core.setup.compile;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import org.holtra.core.setup.Channel;
import org.holtra.core.unit.Units;

/** What is wrong with the channels of a model or of a device. */
public final class ChannelCheck {

    private static final Pattern FIELD = Pattern.compile("[A-Za-z_][A-Za-z0-9_]{0,62}");
    private static final Pattern POINT = Pattern.compile("[a-z][a-z0-9-]{0,62}");
    private static final int MOST = 200;

    private ChannelCheck() {}

    /** @param number of the channel, from 0 */
    public record Problem(int number, String what) {}

    public static List<Problem> problems(List<Channel> channels) {
        List<Problem> problems = new ArrayList<>();
        if (channels.size() > MOST) {
            problems.add(new Problem(MOST, "there are more than " + MOST + " channels"));
            return problems;
        }
        Set<String> names = new HashSet<>();
        for (int number = 0; number < channels.size(); number++) {
            int at = number;
            Channel channel = channels.get(number);
            problem(channel, names).ifPresent(what -> problems.add(new Problem(at, what)));
        }
        return problems;
    }

    private static Optional<String> problem(Channel channel, Set<String> names) {
        if (channel.from() == null || channel.from().isBlank()) {
            return Optional.of("say where the channel stands in what is sent");
        }
        if (channel.field() == null || !FIELD.matcher(channel.field()).matches()) {
            return Optional.of("the name of a field has letters, digits and underscores, and begins with no digit");
        }
        if (channel.point() != null && !POINT.matcher(channel.point()).matches()) {
            return Optional.of(
                    "the name of a point has lower-case letters, digits and dashes, and begins with a letter");
        }
        if (!names.add(channel.name())) {
            return Optional.of("there is a channel for the field `" + channel.name() + "` already");
        }
        if (channel.factor() != null && (channel.factor() == 0 || !Double.isFinite(channel.factor()))) {
            return Optional.of("the factor is a number other than 0");
        }
        if (channel.min() != null && channel.max() != null && channel.min() > channel.max()) {
            return Optional.of("min is above max");
        }
        return unit(channel.unit());
    }

    /** What is wrong with a unit; empty if nothing is, or there is none. */
    static Optional<String> unit(String code) {
        try {
            if (code != null) {
                Units.check(code);
            }
            return Optional.empty();
        } catch (IllegalArgumentException e) {
            return Optional.of(e.getMessage() + "; units are written as UCUM codes, such as Cel, mm, m/s or kW.h");
        }
    }
}
