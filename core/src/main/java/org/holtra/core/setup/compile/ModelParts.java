package org.holtra.core.setup.compile;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.holtra.core.reading.codec.Codec;
import org.holtra.core.reading.codec.LayoutCompiler;
import org.holtra.core.reading.codec.Script;
import org.holtra.core.setup.Channel;
import org.holtra.core.setup.FieldSpec;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.PointSpec;
import org.holtra.core.setup.document.SetupDocument;

/** Compiles models and codecs. */
public final class ModelParts {

    private final Pieces pieces;

    ModelParts(Pieces pieces) {
        this.pieces = pieces;
    }

    Model model(String name, Map<String, Object> part) {
        String at = "/models/" + name;
        Map<String, FieldSpec> fields = new LinkedHashMap<>();
        Codec codec = codec(part.get("codec"), at + "/codec", fields);
        Pieces.each(part.get("fields"), (field, spec) -> fields.put(field, field(spec, at + "/fields/" + field)));
        Map<String, PointSpec> points = new LinkedHashMap<>();
        Pieces.each(part.get("points"), (point, spec) -> points.put(point, point(spec)));
        return new Model(
                        name,
                        codec,
                        fields,
                        points,
                        pieces.expressions(part.get("shows"), at + "/shows"),
                        SetupDocument.block(part.get("facts")),
                        Pieces.span(part, "silentAfter", null),
                        List.of())
                .with(channels(part.get("channels"), at + "/channels"));
    }

    private List<Channel> channels(Object part, String at) {
        List<Channel> channels = new ArrayList<>();
        for (Object one : part instanceof List<?> list ? list : List.of()) {
            Map<String, Object> spec = SetupDocument.block(one);
            channels.add(new Channel(
                    Pieces.text(spec, "from"),
                    Pieces.text(spec, "field"),
                    Pieces.text(spec, "point"),
                    Pieces.number(spec, "factor"),
                    Pieces.text(spec, "unit"),
                    Pieces.number(spec, "min"),
                    Pieces.number(spec, "max"),
                    Pieces.text(spec, "label")));
        }
        ChannelCheck.problems(channels).forEach(problem -> pieces.wrong(at + "/" + problem.number(), problem.what()));
        return channels;
    }

    /** @param fields told the fields with units that a layout has; or null */
    Codec codec(Object part, String at, Map<String, FieldSpec> fields) {
        Map<String, Object> codec = SetupDocument.block(part);
        if (codec.get("layout") instanceof Map<?, ?> layout) {
            LayoutCompiler compiler =
                    new LayoutCompiler((pointer, what) -> pieces.wrong(at + "/layout" + pointer, what));
            Codec compiled = compiler.compile(layout);
            compiler.units().forEach((field, unit) -> {
                unit(unit, at + "/layout");
                if (fields != null) {
                    fields.put(field, new FieldSpec(null, unit, null, null));
                }
            });
            return compiled;
        }
        String script = Pieces.text(codec, "script");
        return script == null ? null : new Script(script);
    }

    private FieldSpec field(Map<String, Object> spec, String at) {
        String unit = Pieces.text(spec, "unit");
        unit(unit, at + "/unit");
        return new FieldSpec(Pieces.text(spec, "label"), unit, Pieces.number(spec, "min"), Pieces.number(spec, "max"));
    }

    private void unit(String code, String at) {
        ChannelCheck.unit(code).ifPresent(what -> pieces.wrong(at, what));
    }

    private static PointSpec point(Map<String, Object> spec) {
        Map<String, String> fields = new LinkedHashMap<>();
        SetupDocument.block(spec.get("fields")).forEach((name, field) -> fields.put(name, String.valueOf(field)));
        return new PointSpec(fields, SetupDocument.block(spec.get("facts")));
    }
}
