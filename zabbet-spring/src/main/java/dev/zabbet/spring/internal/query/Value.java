package dev.zabbet.spring.internal.query;

import org.jspecify.annotations.Nullable;

/** An expression of a query, worked out where its names are bound; null is SQL's unknown. */
@FunctionalInterface
public interface Value {
    @Nullable
    Object in(Scope scope);
}
