package org.holtra.core.setup.schema;

import com.networknt.schema.Error;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.holtra.core.shape.ShapeField;
import org.holtra.core.text.ClassPathText;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The JSON Schema of setup files, put together of the common part and the forms of the kinds there are. */
public final class SetupSchema {

    /** @param pointer where in the file, as a JSON pointer */
    public record Misfit(String pointer, String what) {}

    private static final String OUTLET = "outlet";
    private static final String EXCHANGE = "exchange";
    private static final String INTRODUCTION = "introduction";
    private static final String REFERS = "#/$defs/";
    private static final JsonMapper JSON = JsonMapper.shared();

    private final ObjectNode document;
    private final Schema schema;

    public SetupSchema(Collection<? extends Kind> kinds) {
        document = (ObjectNode) JSON.readTree(ClassPathText.beside(SetupSchema.class, "setup.schema.json"));
        extend("inlet", "at", kinds, Kind::inletForm);
        extend(OUTLET, "to", kinds, Kind::outletForm);
        extend("connection", "to", kinds, Kind::connectionForm);
        schema = SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(document);
    }

    /** The schema itself, to be published. */
    public JsonNode document() {
        return document;
    }

    public List<Misfit> validate(Object setup) {
        SchemaWording wording = new SchemaWording(document);
        List<Misfit> misfits = new ArrayList<>();
        for (Error error : schema.validate(JSON.<JsonNode>valueToTree(setup))) {
            misfits.add(wording.misfit(error));
        }
        return misfits;
    }

    /** The form of a recipe whose exchanges say what the kind has beside the body. */
    private String introduction(Kind kind) {
        ObjectNode all = (ObjectNode) document.at("/$defs");
        String exchange = EXCHANGE + "-" + kind.name();
        String text = all.get(INTRODUCTION).toString().replace(REFERS + EXCHANGE + "\"", REFERS + exchange + "\"");
        String recipe = INTRODUCTION + "-" + kind.name();
        all.set(recipe, JSON.readTree(text));
        ObjectNode its = (ObjectNode) all.get(EXCHANGE).deepCopy();
        ObjectNode properties = JSON.createObjectNode();
        for (ShapeField field : kind.shapeFields()) {
            ObjectNode one = properties.putObject(field.name());
            if (field.isNamed()) {
                one.put("type", "object");
                one.putObject("additionalProperties")
                        .putArray("type")
                        .add("string")
                        .add("number")
                        .add("boolean");
            } else {
                one.put("type", "string");
            }
        }
        properties.setAll((ObjectNode) its.get("properties"));
        its.set("properties", properties);
        all.set(exchange, its);
        return REFERS + recipe;
    }

    private void extend(
            String definition, String field, Collection<? extends Kind> kinds, Function<Kind, Optional<String>> form) {
        ObjectNode target = (ObjectNode) document.at("/$defs/" + definition);
        ArrayNode names = ((ObjectNode) target.at("/properties/kind")).putArray("enum");
        ArrayNode cases = target.putArray("allOf");
        for (Kind kind : kinds) {
            form.apply(kind).ifPresent(text -> {
                names.add(kind.name());
                ObjectNode one = cases.addObject();
                one.putObject("if").putObject("properties").putObject("kind").put("const", kind.name());
                ObjectNode its = one.putObject("then").putObject("properties");
                its.set(field, JSON.readTree(text));
                if (definition.equals(OUTLET) && !kind.batchForms().isEmpty()) {
                    ArrayNode words = its.putObject("batch")
                            .putObject("properties")
                            .putObject("as")
                            .putArray("enum");
                    kind.batchForms().forEach(words::add);
                }
                if (definition.equals(OUTLET) && kind.introduces()) {
                    its.putObject("introduction").put("$ref", introduction(kind));
                }
            });
        }
    }
}
