package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import java.io.IOException;
import java.io.ObjectOutputStream;
import java.io.OutputStream;
import java.io.Serializable;
import java.lang.invoke.SerializedLambda;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;

/**
 * The name behind a method reference. It is read from the serialised form of the lambda, caught while it is written
 * ({@link ObjectOutputStream#replaceObject}); unlike a reflective call of {@code writeReplace} this works from a closed
 * module too.
 *
 * @param owner the binary name of the type the method was named on
 * @param method the method's name
 * @param descriptor the types of its parameters and result, as class files write them
 */
public record MethodName(String owner, String method, String descriptor) {
    private static final ClassValue<Cache> CACHES = new ClassValue<>() {
        @Override
        protected Cache computeValue(Class<?> type) {
            return new Cache();
        }
    };

    private static final class Cache {
        volatile @Nullable MethodName name;
    }

    /**
     * Returns the method that a reference names.
     *
     * @param where what was called and the form to use instead, for the message, as {@code "with(property, value)"}
     * @throws ZabbetException if the lambda is no method reference
     */
    public static MethodName of(Serializable lambda, String where) {
        Cache cache = CACHES.get(lambda.getClass());
        MethodName known = cache.name;
        if (known == null) {
            known = read(lambda, where);
            cache.name = known;
        }
        return known;
    }

    /**
     * Returns the method of a data-access interface that a reference names.
     *
     * @param where what was called, for the message
     * @throws ZabbetException if the lambda is no method reference
     */
    public static MethodName ofMethod(Serializable lambda, String where) {
        SerializedLambda serialized = serialized(lambda, where);
        if (serialized.getImplMethodName().startsWith("lambda$")) {
            throw new ZabbetException("The argument of " + where
                    + " is a lambda, which has no name. Give a method reference such as StayRepository::save.");
        }
        return new MethodName(
                serialized.getImplClass().replace('/', '.'),
                serialized.getImplMethodName(),
                serialized.getImplMethodSignature());
    }

    /** Returns the property that the method reads: {@code getName} and {@code isOpen} lose their prefix. */
    public String property() {
        for (String prefix : new String[] {"get", "is"}) {
            int at = prefix.length();
            if (method.startsWith(prefix) && method.length() > at && Character.isUpperCase(method.charAt(at))) {
                return method.substring(at, at + 1).toLowerCase(Locale.ROOT) + method.substring(at + 1);
            }
        }
        return method;
    }

    private static SerializedLambda serialized(Serializable lambda, String where) {
        AtomicReference<SerializedLambda> found = new AtomicReference<>();
        try (ObjectOutputStream out = new ObjectOutputStream(OutputStream.nullOutputStream()) {
            {
                enableReplaceObject(true);
            }

            @Override
            protected Object replaceObject(Object object) {
                if (object instanceof SerializedLambda serialized) {
                    found.set(serialized);
                    return "";
                }
                return object;
            }
        }) {
            out.writeObject(lambda);
        } catch (IOException e) {
            throw new ZabbetException("The argument of " + where + " cannot be read: " + e, e);
        }
        SerializedLambda serialized = found.get();
        if (serialized == null) {
            throw new ZabbetException("The argument of " + where + " is not a method reference.");
        }
        return serialized;
    }

    private static MethodName read(Serializable lambda, String where) {
        SerializedLambda serialized = serialized(lambda, where);
        if (serialized.getImplMethodName().startsWith("lambda$")) {
            throw new ZabbetException("The property given to " + where
                    + " is a lambda, which has no name. Give a method reference such as Stay::nights,"
                    + " or the name as text: \"nights\".");
        }
        String signature = serialized.getInstantiatedMethodType();
        int end = signature.indexOf(';');
        String owner = signature.startsWith("(L") && end > 0 ? signature.substring(2, end) : serialized.getImplClass();
        return new MethodName(
                owner.replace('/', '.'), serialized.getImplMethodName(), serialized.getImplMethodSignature());
    }
}
