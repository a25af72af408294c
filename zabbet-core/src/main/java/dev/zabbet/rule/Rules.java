package dev.zabbet.rule;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.fake.Arguments;
import dev.zabbet.internal.fake.Mediator;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.MethodName;
import dev.zabbet.type.CheckReturnValue;
import java.io.Serializable;
import java.lang.invoke.MethodType;
import java.lang.reflect.Method;
import java.util.Arrays;

/**
 * Makes a fake misbehave or answer by rule, and expects the calls it received. {@code Stage.rules} is the usual way to it.
 * Works for what {@code Stage.fake} and {@code Stage.fakeOrReal} return, for the real object just as for the fake.
 * Methods are named by references such as {@code StayRepository::save}. Thread-safe.
 *
 * @param <R> the data-access interface
 */
public final class Rules<R> {
    private final Mediator mediator;

    private Rules(Mediator mediator) {
        this.mediator = mediator;
    }

    /**
     * {@return the rules of a fake}
     *
     * @param <R> the data-access interface
     * @param fake what {@code stage.fake} or {@code stage.fakeOrReal} returned
     * @throws ZabbetException if no stage returned the object
     */
    public static <R> Rules<R> of(R fake) {
        return new Rules<>(Mediator.behind(Words.notNull(fake, "fake", "Rules.of")));
    }

    /**
     * Begins a rule for calls of a method.
     *
     * @param method the method, as a method reference such as {@code StayRepository::save}
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public CallRule on(MethodRef0<? super R> method) {
        return on(method, "on(method)");
    }

    /**
     * As {@link #on(MethodRef0)}, for a method with one argument.
     *
     * @param <A> the type of the method's first argument
     * @param method the method, as a method reference
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public <A> CallRule on(MethodRef1<? super R, A> method) {
        return on(method, "on(method)");
    }

    /**
     * As {@link #on(MethodRef0)}, for a method with two arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param method the method, as a method reference
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public <A, B> CallRule on(MethodRef2<? super R, A, B> method) {
        return on(method, "on(method)");
    }

    /**
     * As {@link #on(MethodRef0)}, for a method with three arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param method the method, as a method reference
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public <A, B, C> CallRule on(MethodRef3<? super R, A, B, C> method) {
        return on(method, "on(method)");
    }

    /**
     * As {@link #on(MethodRef0)}, for a method with four arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param <D> the type of the method's fourth argument
     * @param method the method, as a method reference
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public <A, B, C, D> CallRule on(MethodRef4<? super R, A, B, C, D> method) {
        return on(method, "on(method)");
    }

    /**
     * As {@link #on(MethodRef0)}, for a method with five arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param <D> the type of the method's fourth argument
     * @param <E> the type of the method's fifth argument
     * @param method the method, as a method reference
     * @return the rule, for what those calls do
     */
    @CheckReturnValue
    public <A, B, C, D, E> CallRule on(MethodRef5<? super R, A, B, C, D, E> method) {
        return on(method, "on(method)");
    }

    /**
     * Begins an expectation on the calls of a method that came so far.
     *
     * @param method the method, as a method reference such as {@code StayRepository::save}
     * @return the expectation, to be gone on with
     */
    public Calls calls(MethodRef0<? super R> method) {
        return calls(method, "calls(method)");
    }

    /**
     * As {@link #calls(MethodRef0)}, for a method with one argument.
     *
     * @param <A> the type of the method's first argument
     * @param method the method, as a method reference
     * @return the expectation, to be gone on with
     */
    public <A> Calls calls(MethodRef1<? super R, A> method) {
        return calls(method, "calls(method)");
    }

    /**
     * As {@link #calls(MethodRef0)}, for a method with two arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param method the method, as a method reference
     * @return the expectation, to be gone on with
     */
    public <A, B> Calls calls(MethodRef2<? super R, A, B> method) {
        return calls(method, "calls(method)");
    }

    /**
     * As {@link #calls(MethodRef0)}, for a method with three arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param method the method, as a method reference
     * @return the expectation, to be gone on with
     */
    public <A, B, C> Calls calls(MethodRef3<? super R, A, B, C> method) {
        return calls(method, "calls(method)");
    }

    /**
     * As {@link #calls(MethodRef0)}, for a method with four arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param <D> the type of the method's fourth argument
     * @param method the method, as a method reference
     * @return the expectation, to be gone on with
     */
    public <A, B, C, D> Calls calls(MethodRef4<? super R, A, B, C, D> method) {
        return calls(method, "calls(method)");
    }

    /**
     * As {@link #calls(MethodRef0)}, for a method with five arguments.
     *
     * @param <A> the type of the method's first argument
     * @param <B> the type of the method's second argument
     * @param <C> the type of the method's third argument
     * @param <D> the type of the method's fourth argument
     * @param <E> the type of the method's fifth argument
     * @param method the method, as a method reference
     * @return the expectation, to be gone on with
     */
    public <A, B, C, D, E> Calls calls(MethodRef5<? super R, A, B, C, D, E> method) {
        return calls(method, "calls(method)");
    }

    /** {@return all calls that came so far, of all methods, in order} */
    public Calls calls() {
        return new Calls(mediator, null, Arguments.ANY);
    }

    /**
     * From now on a call that no rule is for fails at once.
     *
     * @return these rules
     */
    public Rules<R> strict() {
        mediator.beStrict();
        return this;
    }

    /** Takes back all rules, and forgets the calls that came. */
    public void clear() {
        mediator.forgetRules();
    }

    private CallRule on(Serializable reference, String where) {
        return new CallRule(mediator, method(mediator.type(), reference, where), Arguments.ANY, 1, Integer.MAX_VALUE);
    }

    private Calls calls(Serializable reference, String where) {
        return new Calls(mediator, method(mediator.type(), reference, where), Arguments.ANY);
    }

    /** Finds the method that a reference names, in a type that has it. */
    static Method method(Class<?> type, Serializable reference, String where) {
        Words.notNull(reference, "method", where);
        MethodName name = MethodName.ofMethod(reference, where);
        return Arrays.stream(type.getMethods())
                .filter(m -> m.getName().equals(name.method())
                        && MethodType.methodType(m.getReturnType(), m.getParameterTypes())
                                .toMethodDescriptorString()
                                .equals(name.descriptor()))
                .findFirst()
                .orElseThrow(() -> new ZabbetException(
                        name.owner() + "::" + name.method() + " is no method of " + type.getName() + "."));
    }
}
