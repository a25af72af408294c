package dev.zabbet.fake;

import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A call that a fake, or what stands before a real object, has received. Thread-safe; only its outcome changes, once, when the
 * call ends. Its text reads {@code save(Stay[id=0, …]) gave Stay[id=1, …]}.
 */
public interface Call {
    /** {@return the method's name} */
    String method();

    /** {@return the arguments as they were when the call came, in order; mutable ones are copies} */
    List<@Nullable Object> arguments();

    /** {@return the result; empty if it was null or void, or if the call failed or is still running} */
    Optional<Object> result();

    /** {@return what was thrown; empty if the call returned or is still running} */
    Optional<Throwable> failure();

    /** {@return the name of the thread that called} */
    String thread();
}
