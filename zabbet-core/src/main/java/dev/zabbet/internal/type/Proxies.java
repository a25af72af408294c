package dev.zabbet.internal.type;

import dev.zabbet.error.ZabbetException;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;

/** Objects that a persistence provider hands out in place of others, which it loads when they are used. */
public final class Proxies {
    /** Every such object of Hibernate has this method; what it returns knows the identifier and the real object. */
    private static final String INITIALIZER = "getHibernateLazyInitializer";

    private Proxies() {}

    /**
     * Returns the object that another one stands for; an object that stands for itself as it is.
     *
     * @throws ZabbetException if it has not been loaded, and can no longer be
     */
    @SuppressWarnings("unchecked")
    public static <T> T real(T object) {
        Object initializer = initializer(object);
        return initializer == object ? object : (T) call(initializer, "getImplementation", object);
    }

    /** Tells whether an object stands for another. */
    public static boolean isProxy(Object object) {
        return initializer(object) != object;
    }

    /** Returns the key of an object, which is not loaded for that; the object itself if it stands for no other. */
    public static Object identifierOrSelf(Object object) {
        Object initializer = initializer(object);
        return initializer == object ? object : call(initializer, "getIdentifier", object);
    }

    private static Object initializer(Object object) {
        Class<?> type = object.getClass();
        if (type.getSuperclass() == null || type.getName().indexOf('$') < 0) {
            return object; // proxies are subclasses that are made while the program runs
        }
        try {
            return type.getMethod(INITIALIZER).invoke(object);
        } catch (NoSuchMethodException e) {
            return object;
        } catch (ReflectiveOperationException e) {
            throw new ZabbetException("An object of " + type.getName() + " cannot be read: " + e, e);
        }
    }

    private static Object call(Object initializer, String name, Object object) {
        try {
            for (Class<?> face : initializer.getClass().getInterfaces()) {
                for (Method method : face.getMethods()) {
                    if (method.getName().equals(name) && method.getParameterCount() == 0) {
                        return method.invoke(initializer);
                    }
                }
            }
            Method method = initializer.getClass().getMethod(name);
            method.setAccessible(true);
            return method.invoke(initializer);
        } catch (InvocationTargetException e) {
            throw new ZabbetException(
                    "A lazy " + object.getClass().getSuperclass().getSimpleName()
                            + " cannot be read, since its session is over: "
                            + e.getTargetException().getMessage()
                            + "\nRead it inside a transaction, or load it with what refers to it.",
                    e.getTargetException());
        } catch (ReflectiveOperationException e) {
            throw new ZabbetException("An object of " + object.getClass().getName() + " cannot be read: " + e, e);
        }
    }
}
