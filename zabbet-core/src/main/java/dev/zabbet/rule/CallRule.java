package dev.zabbet.rule;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.fake.Arguments;
import dev.zabbet.internal.fake.Mediator;
import dev.zabbet.internal.fake.Rule;
import dev.zabbet.internal.story.Story;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.type.CheckReturnValue;
import dev.zabbet.type.Kind;
import java.lang.reflect.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * Says at which calls of a method something else is to happen, and what. Of several rules that are for a call the one made
 * last counts. Immutable: {@link #call}, {@link #afterCalls} and {@link #with} return another.
 */
public final class CallRule {
    private final Mediator mediator;
    private final Method method;
    private final Arguments arguments;
    private final int from;
    private final int to;

    CallRule(Mediator mediator, Method method, Arguments arguments, int from, int to) {
        this.mediator = mediator;
        this.method = method;
        this.arguments = arguments;
        this.from = from;
        this.to = to;
    }

    /**
     * Means calls with these arguments alone.
     *
     * @param wanted as many as the method takes, each a value, null, or a matcher as expected rows have them
     *     ({@code any()}, {@code above(3)}, {@code satisfying("…", predicate)})
     * @return a rule for those calls
     */
    @CheckReturnValue
    public CallRule with(@Nullable Object... wanted) {
        return new CallRule(mediator, method, Arguments.of(method, wanted), from, to);
    }

    /**
     * Means only the n-th call, counted from now and from 1 among those with the arguments meant.
     *
     * @param n which call, from 1
     * @return a rule for those calls
     */
    @CheckReturnValue
    public CallRule call(int n) {
        requirePositive(n, "call");
        return new CallRule(mediator, method, arguments, n, n);
    }

    /**
     * Means all calls after the first n.
     *
     * @param n how many calls are left as they are, at least 1
     * @return a rule for those calls
     */
    @CheckReturnValue
    public CallRule afterCalls(int n) {
        requirePositive(n, "afterCalls");
        return new CallRule(mediator, method, arguments, n + 1, Integer.MAX_VALUE);
    }

    private static void requirePositive(int n, String where) {
        if (n < 1) {
            throw new IllegalArgumentException(where + "(" + n + "): calls are counted from 1.");
        }
    }

    /**
     * Gives these values, one call after another, the last one for ever; the fake itself does nothing then.
     *
     * @param first what the first call gets
     * @param rest what later calls get; the last of them stays
     * @throws ZabbetException if the method does not return such values
     */
    public void gives(@Nullable Object first, @Nullable Object... rest) {
        List<Rule.Outcome> outcomes = new ArrayList<>();
        outcomes.add(giving(first));
        for (Object value : rest) {
            outcomes.add(giving(value));
        }
        add("gives", outcomes);
    }

    /**
     * Throws these, one call after another, the last one for ever; the fake itself does nothing then.
     *
     * @param first what the first call throws
     * @param rest what later calls throw; the last of them stays
     * @throws ZabbetException if one is checked and the method does not declare it
     */
    public void fails(Throwable first, Throwable... rest) {
        List<Rule.Outcome> outcomes = new ArrayList<>();
        outcomes.add(failing(first));
        for (Throwable failure : rest) {
            outcomes.add(failing(failure));
        }
        add("fails", outcomes);
    }

    /**
     * Waits before the fake, or the real object, does what it does.
     *
     * @param by how long
     */
    public void delays(Duration by) {
        Words.notNull(by, "by", "delays");
        Rule rule = rule("delays");
        rule.delay(by);
        mediator.rules(method).add(rule);
    }

    /** Lets the fake, or the real object, do what it does: an exception to a wider rule. */
    public void passesThrough() {
        add("passesThrough", List.of());
    }

    private Rule rule(String what) {
        Story story = mediator.log.story();
        return new Rule(
                arguments,
                from,
                to,
                story == null
                        ? null
                        : story.rule(
                                mediator.type().getSimpleName() + "." + method.getName() + arguments.describe() + " "
                                        + what,
                                what.equals("gives")));
    }

    private void add(String what, List<Rule.Outcome> outcomes) {
        Rule rule = rule(what);
        rule.give(outcomes);
        mediator.rules(method).add(rule);
    }

    private Rule.Outcome giving(@Nullable Object value) {
        Class<?> type = method.getReturnType();
        String where = type.getSimpleName() + " " + method.getName();
        if (type == void.class) {
            if (value != null) {
                throw new ZabbetException(method.getName() + " returns nothing, and gives was given " + value + ".");
            }
            return () -> null;
        }
        if (value == null && type.isPrimitive()) {
            throw new ZabbetException(where + " cannot give null.");
        }
        if (value == null || JavaValue.boxed(type).isInstance(value)) {
            return () -> value;
        }
        try {
            Object fitted = JavaValue.kindOf(type) == Kind.OTHER ? null : JavaValue.to(type, value);
            if (fitted != null) {
                return () -> fitted;
            }
        } catch (InexactValueException e) {
            throw new ZabbetException(where + " cannot give this: " + e.clause() + ".");
        }
        throw new ZabbetException(where + " cannot give a " + value.getClass().getSimpleName() + ": "
                + Words.cut(value.toString(), 80) + ".");
    }

    private Rule.Outcome failing(Throwable failure) {
        Words.notNull(failure, "failure", "fails");
        boolean declared = failure instanceof RuntimeException
                || failure instanceof Error
                || Arrays.stream(method.getExceptionTypes()).anyMatch(type -> type.isInstance(failure));
        if (!declared) {
            String types = String.join(
                    ", ",
                    Arrays.stream(method.getExceptionTypes())
                            .map(Class::getSimpleName)
                            .toList());
            throw new ZabbetException(method.getName() + " cannot throw the checked "
                    + failure.getClass().getSimpleName() + ": it declares " + (types.isEmpty() ? "none" : types)
                    + ". Wrap it as your data access does, for example in new IllegalStateException(failure).");
        }
        return () -> {
            failure.setStackTrace(Objects.requireNonNull(new Throwable().getStackTrace()));
            throw failure;
        };
    }
}
