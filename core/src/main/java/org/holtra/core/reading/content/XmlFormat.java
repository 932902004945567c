package org.holtra.core.reading.content;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import javax.xml.stream.XMLInputFactory;
import tools.jackson.core.JacksonException;
import tools.jackson.dataformat.xml.XmlFactory;
import tools.jackson.dataformat.xml.XmlMapper;

/**
 * XML 1.0 without document types, and so without entities of any type. Elements and attributes become fields of the
 * element around them, an element that comes again a list; the root's own name is left out. Numbers are read as such.
 */
final class XmlFormat implements Format.Parser {

    private final XmlMapper xml = new XmlMapper(XmlFactory.builder()
            .xmlInputFactory(inputs())
            .streamReadConstraints(Bounds.OF_TOKENS)
            .build());

    private static XMLInputFactory inputs() {
        XMLInputFactory inputs = XMLInputFactory.newFactory();
        inputs.setProperty(XMLInputFactory.SUPPORT_DTD, false);
        inputs.setProperty(XMLInputFactory.IS_SUPPORTING_EXTERNAL_ENTITIES, false);
        return inputs;
    }

    @Override
    public Object parse(byte[] body) throws UnreadableContent {
        try {
            return numbers(xml.readValue(body, Object.class));
        } catch (JacksonException e) {
            throw new UnreadableContent("the body is not XML: "
                    + e.getOriginalMessage().lines().findFirst().orElse(""));
        }
    }

    private static Object numbers(Object value) {
        return switch (value) {
            case null -> "";
            case Map<?, ?> map -> {
                Map<String, Object> fields = new java.util.LinkedHashMap<>();
                map.forEach((name, field) -> fields.put(name.toString(), numbers(field)));
                yield fields;
            }
            case List<?> list -> {
                List<Object> items = new ArrayList<>();
                list.forEach(item -> items.add(numbers(item)));
                yield items;
            }
            default -> TextFormat.value(value.toString());
        };
    }
}
