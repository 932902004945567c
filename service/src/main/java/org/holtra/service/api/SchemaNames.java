package org.holtra.service.api;

import io.swagger.v3.core.jackson.TypeNameResolver;
import java.util.Set;

/**
 * Names of the schemas in the API's description. Records within different classes may have the same name, so the class around
 * them is part of it: {@code CredentialController.Made} is {@code CredentialMade}.
 */
final class SchemaNames extends TypeNameResolver {

    @Override
    protected String nameForClass(Class<?> type, Set<Options> options) {
        Class<?> around = type.getEnclosingClass();
        return around == null
                ? super.nameForClass(type, options)
                : around.getSimpleName().replaceFirst("Controller$", "") + type.getSimpleName();
    }
}
