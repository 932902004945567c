package org.holtra.core.text;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;

/** A text that ships beside a class. */
public final class ClassPathText {

    private ClassPathText() {}

    /** @throws IllegalStateException if there is no such file beside the class */
    public static String beside(Class<?> owner, String file) {
        try (InputStream in = owner.getResourceAsStream(file)) {
            if (in == null) {
                throw new IllegalStateException(file + " is missing beside " + owner.getName());
            }
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
