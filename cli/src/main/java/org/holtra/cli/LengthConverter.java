package org.holtra.cli;

import java.time.Duration;
import picocli.CommandLine.ITypeConverter;
import picocli.CommandLine.TypeConversionException;

/** Reads lengths of time such as 30m. */
final class LengthConverter implements ITypeConverter<Duration> {

    @Override
    public Duration convert(String text) {
        if (!text.matches("[0-9]{1,6}[smhd]")) {
            throw new TypeConversionException("write a number and s, m, h or d, such as 30m");
        }
        long count = Long.parseLong(text.substring(0, text.length() - 1));
        return switch (text.charAt(text.length() - 1)) {
            case 's' -> Duration.ofSeconds(count);
            case 'm' -> Duration.ofMinutes(count);
            case 'h' -> Duration.ofHours(count);
            default -> Duration.ofDays(count);
        };
    }
}
