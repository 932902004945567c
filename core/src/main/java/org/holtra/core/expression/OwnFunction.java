package org.holtra.core.expression;

import dev.cel.common.CelFunctionDecl;
import dev.cel.common.CelOverloadDecl;
import dev.cel.common.types.CelType;
import dev.cel.common.types.ListType;
import dev.cel.common.types.SimpleType;
import dev.cel.common.values.CelByteString;
import dev.cel.runtime.CelFunctionBinding;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** A function beside CEL's own: how it is declared, and what it does. */
record OwnFunction(String name, List<Overload> overloads, boolean ofValue) {

    /** One that stands behind its first argument: {@code text.join(separator)}. */
    static OwnFunction ofValue(String name, Overload... overloads) {
        return new OwnFunction(name, List.of(overloads), true);
    }

    /** @param work throws IllegalArgumentException, with a sentence for people, for what it cannot take */
    record Overload(CelType result, List<CelType> takes, Work work) {}

    interface Work {
        Object on(Object[] given);
    }

    private static final Map<CelType, Class<?>> CLASSES = Map.of(
            SimpleType.DOUBLE, Double.class,
            SimpleType.INT, Long.class,
            SimpleType.STRING, String.class,
            SimpleType.BYTES, CelByteString.class,
            SimpleType.TIMESTAMP, Instant.class,
            SimpleType.DYN, Object.class);

    CelFunctionDecl declaration() {
        List<CelOverloadDecl> declared = new ArrayList<>();
        for (Overload overload : overloads) {
            declared.add(
                    ofValue
                            ? CelOverloadDecl.newMemberOverload(id(overload), overload.result, overload.takes)
                            : CelOverloadDecl.newGlobalOverload(id(overload), overload.result, overload.takes));
        }
        return CelFunctionDecl.newFunctionDeclaration(name, declared);
    }

    /** One overload is bound under the function's own name, so that the planner runtime finds it. */
    List<CelFunctionBinding> bindings() {
        List<CelFunctionBinding> bound = new ArrayList<>();
        for (Overload overload : overloads) {
            bound.add(binding(id(overload), overload));
        }
        return List.copyOf(CelFunctionBinding.fromOverloads(name, bound));
    }

    /** The planner runtime calls one and two arguments by ways of their own, and has to be given them. */
    private static CelFunctionBinding binding(String id, Overload overload) {
        List<Class<?>> classes = new ArrayList<>();
        overload.takes.forEach(type -> classes.add(type instanceof ListType ? List.class : CLASSES.get(type)));
        Work work = overload.work;
        return switch (classes.size()) {
            case 1 -> CelFunctionBinding.from(id, classes.get(0), one -> work.on(new Object[] {one}));
            case 2 ->
                CelFunctionBinding.from(
                        id, classes.get(0), classes.get(1), (one, two) -> work.on(new Object[] {one, two}));
            default -> CelFunctionBinding.from(id, classes, work::on);
        };
    }

    private String id(Overload overload) {
        StringBuilder id = new StringBuilder(name);
        overload.takes.forEach(type -> id.append('_').append(type.name().replaceAll("[^a-z]", "_")));
        return id.toString();
    }
}
