package org.holtra.core.shape;

/**
 * What a shape may say beside the body, where it sends to outlets of a kind: a text, or values by name.
 *
 * @param name in the shape, such as {@code path}
 * @param isNamed whether it is values by name
 */
public record ShapeField(String name, boolean isNamed, Writing writing) {

    /** How a field is written for where it stands. */
    public interface Writing {

        /** A value that a template puts in. */
        String value(String value);

        /** The name of a value, once it is known. */
        default String name(String name) throws ShapeFailure {
            return name;
        }

        /** A text as a whole, once its values stand in it. */
        default String whole(String text) throws ShapeFailure {
            return text;
        }
    }

    public static ShapeField text(String name, Writing writing) {
        return new ShapeField(name, false, writing);
    }

    public static ShapeField named(String name, Writing writing) {
        return new ShapeField(name, true, writing);
    }
}
