package dev.zabbet.internal.type;

import java.lang.reflect.Field;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.Type;
import java.lang.reflect.TypeVariable;
import java.util.HashMap;
import java.util.Map;

/** The types of fields, with what a subclass says of the type variables of its superclasses. */
final class FieldTypes {
    private FieldTypes() {}

    /** Returns the type that a field has in a class, which declares it or inherits it. */
    static Type of(Field field, Class<?> type) {
        Type declared = field.getGenericType();
        if (!(declared instanceof TypeVariable<?>)) {
            return declared;
        }
        Map<TypeVariable<?>, Type> said = new HashMap<>();
        for (Class<?> c = type; c != null && c != field.getDeclaringClass(); c = c.getSuperclass()) {
            if (c.getGenericSuperclass() instanceof ParameterizedType above) {
                TypeVariable<?>[] variables = c.getSuperclass().getTypeParameters();
                for (int i = 0; i < variables.length; i++) {
                    Type argument = above.getActualTypeArguments()[i];
                    said.put(variables[i], said.getOrDefault(argument, argument));
                }
            }
        }
        Type found = said.getOrDefault(declared, declared);
        return found instanceof TypeVariable<?> ? field.getType() : found;
    }
}
