package org.holtra.service.lifecycle;

import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.classic.spi.IThrowableProxy;
import ch.qos.logback.classic.spi.ThrowableProxyUtil;
import org.springframework.boot.json.JsonWriter;
import org.springframework.boot.logging.structured.StructuredLogFormatter;

/**
 * A line of the log as a JSON object, for programs that collect logs: {@code time}, {@code level}, {@code logger}, {@code thread},
 * {@code message}, and where there are such {@code trace} (of the message it is about, as W3C Trace Context has it) and {@code
 * error}.
 */
public final class JsonLogLine implements StructuredLogFormatter<ILoggingEvent> {

    /** Under which the trace id of the message that a thread works on stands. */
    public static final String TRACE = "trace";

    private final JsonWriter<ILoggingEvent> writer = JsonWriter.<ILoggingEvent>of(members -> {
                members.add("time", event -> event.getInstant().toString());
                members.add("level", event -> event.getLevel().toString());
                members.add("logger", ILoggingEvent::getLoggerName);
                members.add("thread", ILoggingEvent::getThreadName);
                members.add("message", ILoggingEvent::getFormattedMessage);
                members.add(TRACE, event -> event.getMDCPropertyMap().get(TRACE))
                        .whenNotNull();
                members.add("error", JsonLogLine::error).whenNotNull();
            })
            .withNewLineAtEnd();

    private static String error(ILoggingEvent event) {
        IThrowableProxy thrown = event.getThrowableProxy();
        return thrown == null ? null : ThrowableProxyUtil.asString(thrown);
    }

    @Override
    public String format(ILoggingEvent event) {
        return writer.writeToString(event);
    }
}
