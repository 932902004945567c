package org.holtra.service.kinds.mail;

import java.util.List;
import org.holtra.core.shape.ShapeField;

/** What a shape may say beside the text of a mail: its subject and who gets it. */
final class MailShape {

    static final String SUBJECT = "subject";
    static final String TO = "to";

    static final List<ShapeField> FIELDS =
            List.of(ShapeField.text(SUBJECT, new Line()), ShapeField.text(TO, new Line()));

    private MailShape() {}

    /** A line break would begin another header (RFC 5322, section 2.2). */
    private record Line() implements ShapeField.Writing {

        @Override
        public String value(String value) {
            return value.replaceAll("\\p{Cntrl}+", " ");
        }

        @Override
        public String whole(String text) {
            return text.replaceAll("\\p{Cntrl}+", " ").strip();
        }
    }
}
