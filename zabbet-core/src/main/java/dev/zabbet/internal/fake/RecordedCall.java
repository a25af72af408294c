package dev.zabbet.internal.fake;

import dev.zabbet.fake.Call;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.Text;
import java.lang.reflect.Method;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** A call as it is written down. Immutable but for its outcome. */
public final class RecordedCall implements Call {
    private final Method method;
    private final @Nullable Object[] arguments;
    private final String thread;
    private volatile @Nullable Object result;
    private volatile @Nullable Throwable failure;
    public long order; // among the calls of all fakes of the stage, from 1; given when the call is logged

    RecordedCall(Method method, @Nullable Object[] arguments) {
        @Nullable Object[] copies = new @Nullable Object[arguments.length];
        for (int i = 0; i < copies.length; i++) {
            copies[i] = Copies.of(arguments[i]);
        }
        this.method = method;
        this.arguments = copies;
        this.thread = Thread.currentThread().getName();
    }

    public Method reflected() {
        return method;
    }

    void gave(@Nullable Object value) {
        result = Copies.of(value);
    }

    void failed(Throwable thrown) {
        failure = thrown;
    }

    @Override
    public String method() {
        return method.getName();
    }

    @Override
    public List<@Nullable Object> arguments() {
        return Collections.unmodifiableList(Arrays.asList(arguments));
    }

    @Override
    public Optional<Object> result() {
        return Optional.ofNullable(result);
    }

    @Override
    public Optional<Throwable> failure() {
        return Optional.ofNullable(failure);
    }

    @Override
    public String thread() {
        return thread;
    }

    @Override
    public String toString() {
        StringBuilder text = new StringBuilder(asked());
        Throwable thrown = failure;
        if (thrown != null) {
            text.append(" failed: ").append(thrown);
        } else if (method.getReturnType() != void.class) {
            text.append(" gave ").append(shown(result));
        }
        if (!thread.equals("main")) {
            text.append(", in thread ").append(thread);
        }
        return Words.cut(text.toString().replace("\n", " "), 300);
    }

    /** Returns the method and its arguments. */
    String asked() {
        StringBuilder text = new StringBuilder(method.getName()).append('(');
        for (int i = 0; i < arguments.length; i++) {
            text.append(i == 0 ? "" : ", ").append(shown(arguments[i]));
        }
        return text.append(')').toString();
    }

    private static String shown(@Nullable Object value) {
        return value instanceof String text ? Text.of(text) : Words.cut(String.valueOf(value), 120);
    }
}
