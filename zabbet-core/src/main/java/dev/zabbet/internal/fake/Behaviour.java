package dev.zabbet.internal.fake;

import org.jspecify.annotations.Nullable;

/** What a method of a fake does. */
@FunctionalInterface
interface Behaviour {
    @Nullable
    Object call(@Nullable Object[] arguments) throws Throwable;
}
