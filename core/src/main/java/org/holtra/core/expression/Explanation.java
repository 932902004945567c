package org.holtra.core.expression;

import java.util.List;

/**
 * What an expression came to for one message, part by part.
 *
 * @param source the part as text
 * @param value what it gave, in a few words; null if it gave nothing
 * @param whyNone why it gave nothing; null if it gave something
 * @param truth whether it is true or false, where it is one of the two; else null
 * @param parts what it is made of; empty for constants and fields
 */
public record Explanation(String source, String value, String whyNone, Boolean truth, List<Explanation> parts) {}
