package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.story.Story;
import dev.zabbet.store.ConstraintException;
import java.lang.invoke.MethodHandle;
import java.lang.invoke.MethodHandles;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.SQLDataException;
import java.sql.SQLException;
import java.sql.SQLIntegrityConstraintViolationException;
import java.sql.SQLTransactionRollbackException;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Stands between a caller and a fake, or a real object: records the calls and applies the rules. */
public final class Mediator implements InvocationHandler {
    private static final @Nullable Object[] NOTHING = new @Nullable Object[0];

    private final Class<?> type;
    private final String what;
    private final Behaviours behaviours;
    private final @Nullable Object real;
    private final Function<? super ConstraintException, ? extends @Nullable Throwable> translation;
    private final Map<Method, MethodHandle> defaults = new ConcurrentHashMap<>();
    private final Map<Method, RuleBook> rules = new ConcurrentHashMap<>();
    private volatile boolean strict;
    private volatile boolean ruled;
    public final CallLog.Of log;

    Mediator(
            Class<?> type,
            Behaviours behaviours,
            @Nullable Object real,
            CallLog log,
            Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        this.type = type;
        this.behaviours = behaviours;
        this.real = real;
        this.what = (real == null ? "fake of " : "mediated ") + type.getSimpleName();
        this.log = new CallLog.Of(log);
        this.translation = translation;
    }

    /** Returns what stands before a fake or mediated object. */
    public static Mediator behind(Object proxy) {
        if (Proxy.isProxyClass(proxy.getClass()) && Proxy.getInvocationHandler(proxy) instanceof Mediator mediator) {
            return mediator;
        }
        throw new ZabbetException("Rules are for what stage.fake or stage.fakeOrReal returned, and this is "
                + proxy.getClass().getName() + ".");
    }

    public Class<?> type() {
        return type;
    }

    public RuleBook rules(Method method) {
        ruled = true;
        return rules.computeIfAbsent(method, m -> new RuleBook());
    }

    public void beStrict() {
        strict = true;
    }

    public void forgetRules() {
        rules.clear();
        ruled = false;
        strict = false;
        log.clear();
    }

    @Override
    public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] given) throws Throwable {
        @Nullable Object[] arguments = given == null ? NOTHING : given;
        if (method.getDeclaringClass() == Object.class) {
            return switch (method.getName()) {
                case "equals" -> proxy == arguments[0];
                case "hashCode" -> System.identityHashCode(proxy);
                default -> what;
            };
        }
        if (method.isBridge()) {
            return defaultMethod(method).bindTo(proxy).invokeWithArguments(arguments);
        }
        RecordedCall call = log.begin(method, arguments);
        try {
            RuleBook book = ruled ? rules.get(method) : null;
            Rule rule = book == null ? null : book.next(arguments);
            if (rule != null) {
                rule.met();
            }
            if (rule == null && strict) {
                throw new AssertionError("Unexpected call of " + type.getSimpleName() + ": " + call.asked()
                        + "\nThe rules are strict, and none of them is for this call.");
            }
            Object result =
                    rule == null || rule.passesThrough() ? answer(proxy, method, arguments, rule) : rule.apply();
            call.gave(result);
            readByTest(method);
            return result;
        } catch (Throwable e) {
            call.failed(e);
            throw e;
        }
    }

    /** What comes outside of acts the test asks itself. */
    private void readByTest(Method method) {
        Story story = log.story();
        if (story != null && !story.isActing() && method.getReturnType() != void.class) {
            story.reads(type.getSimpleName() + "." + method.getName() + "(…)", null);
        }
    }

    private @Nullable Object answer(Object proxy, Method method, @Nullable Object[] arguments, @Nullable Rule rule)
            throws Throwable {
        if (rule != null) {
            rule.apply();
        }
        Object target = real;
        if (target != null) {
            try {
                method.setAccessible(true);
                return method.invoke(target, arguments);
            } catch (java.lang.reflect.InvocationTargetException e) {
                throw e.getCause() == null ? e : e.getCause();
            }
        }
        Behaviour behaviour = behaviours.get(method);
        if (behaviour == null) {
            return defaultMethod(method).bindTo(proxy).invokeWithArguments(arguments);
        }
        try {
            return behaviour.call(arguments);
        } catch (ConstraintException e) {
            throw asDeclared(method, e);
        } catch (StaleObjectException e) {
            Throwable thrown = asDeclared(method, e.refusal());
            throw thrown == e.refusal() ? e.usual() : thrown;
        }
    }

    /** A refused row is thrown as the real data access throws it. */
    private Throwable asDeclared(Method method, ConstraintException refusal) {
        Throwable translated = translation.apply(refusal);
        if (translated == null) {
            translated = Supports.thrown(type, refusal);
        }
        if (translated != null) {
            return translated;
        }
        for (Class<?> declared : method.getExceptionTypes()) {
            if (declared.isAssignableFrom(SQLException.class)) {
                if (refusal.sqlState().equals(ConstraintException.STALE)) {
                    return new SQLTransactionRollbackException(refusal.getMessage(), refusal.sqlState(), refusal);
                }
                return refusal.sqlState().startsWith("22")
                        ? new SQLDataException(refusal.getMessage(), refusal.sqlState(), refusal)
                        : new SQLIntegrityConstraintViolationException(
                                refusal.getMessage(), refusal.sqlState(), refusal);
            }
        }
        return refusal;
    }

    /** Reaches default methods of interfaces that are not public, which the proxy itself may not call. */
    private MethodHandle defaultMethod(Method method) {
        return defaults.computeIfAbsent(method, m -> {
            try {
                Class<?> owner = m.getDeclaringClass();
                return MethodHandles.privateLookupIn(owner, MethodHandles.lookup())
                        .unreflectSpecial(m, owner);
            } catch (IllegalAccessException e) {
                throw new ZabbetException(
                        "The default method " + m.getName() + " of " + type.getName() + " cannot be reached: " + e, e);
            }
        });
    }
}
