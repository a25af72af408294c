package dev.zabbet.fake;

import org.jspecify.annotations.Nullable;

/** The behaviour of a method of a fake, where its name does not tell. */
@FunctionalInterface
public interface Definition {
    /**
     * Answers a call.
     *
     * @param tables the rows, as objects
     * @param given the arguments
     * @return what the method returns; rows, objects and lists of them are brought into the form that it declares
     * @throws Throwable what the method throws
     */
    @Nullable
    Object answer(Tables tables, CallArguments given) throws Throwable;
}
