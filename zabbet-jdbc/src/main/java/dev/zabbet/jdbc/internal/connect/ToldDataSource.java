package dev.zabbet.jdbc.internal.connect;

import dev.zabbet.internal.story.Stories;
import dev.zabbet.internal.story.Story;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Store;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * A source of connections that tells the story of the test which rows the test reads by itself, between its acts. Connections and
 * statements do everything as those of the driver do, and are of the same interfaces.
 */
public final class ToldDataSource extends PlainDataSource {
    private static final Pattern WRITES = Pattern.compile(
            "\\s*(insert|update|delete|merge|replace|truncate|create|alter|drop|set|grant|revoke|begin|commit|rollback)\\b.*",
            Pattern.CASE_INSENSITIVE | Pattern.DOTALL);
    private static final int SHOWN = 80;

    private final DataSource real;
    private final Store store;

    public ToldDataSource(DataSource real, Store store) {
        this.real = real;
        this.store = store;
    }

    @Override
    public Connection getConnection() throws SQLException {
        return told(real.getConnection());
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return told(real.getConnection(user, password));
    }

    private Connection told(Connection connection) {
        return proxy(connection, Connection.class, new Told(connection, null, null));
    }

    /** Stands before a connection, or a statement of one. */
    private final class Told implements InvocationHandler {
        private final Object target;
        private final @Nullable Connection connection;
        private final @Nullable String prepared;

        /**
         * @param connection what a statement says that it belongs to; null for a connection
         * @param prepared the statement's SQL, if it is known from the start
         */
        Told(Object target, @Nullable Connection connection, @Nullable String prepared) {
            this.target = target;
            this.connection = connection;
            this.prepared = prepared;
        }

        @Override
        public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] given)
                throws Throwable {
            String name = method.getName();
            String sql = given != null && given.length > 0 && given[0] instanceof String text ? text : prepared;
            if (connection != null && name.equals("getConnection")) {
                return connection;
            }
            if (name.equals("equals") && given != null) {
                return proxy == given[0];
            }
            if (connection != null && name.startsWith("execute") && sql != null) {
                tell(sql);
            }
            Object result;
            try {
                result = method.invoke(target, given);
            } catch (InvocationTargetException e) {
                throw e.getCause() == null ? e : e.getCause();
            }
            return connection == null && result instanceof Statement statement
                    ? proxy(statement, method.getReturnType(), new Told(statement, (Connection) proxy, sql))
                    : result;
        }
    }

    private void tell(String sql) {
        Story story = Stories.of(store);
        if (story == null || story.isActing() || WRITES.matcher(sql).matches()) {
            return;
        }
        String line = sql.strip().replaceAll("\\s+", " ");
        String shown = line.length() > SHOWN ? line.substring(0, SHOWN - 1) + "…" : line;
        List<Table> named = store.schema().tables().stream()
                .filter(table -> isNamed(table, sql.toLowerCase(Locale.ROOT)))
                .toList();
        if (named.isEmpty()) {
            story.reads(shown, null);
        }
        named.forEach(table -> story.reads(shown, table));
    }

    private static boolean isNamed(Table table, String sql) {
        return Pattern.compile("\\b" + Pattern.quote(table.sqlName().toLowerCase(Locale.ROOT)) + "\\b")
                .matcher(sql)
                .find();
    }

    private static <T> T proxy(T target, Class<?> least, InvocationHandler handler) {
        Set<Class<?>> interfaces = new LinkedHashSet<>(List.of(least));
        for (Class<?> at = target.getClass(); at != null; at = at.getSuperclass()) {
            for (Class<?> one : at.getInterfaces()) {
                if (Modifier.isPublic(one.getModifiers())) {
                    interfaces.add(one);
                }
            }
        }
        @SuppressWarnings("unchecked")
        T proxy = (T) newProxy(target.getClass().getClassLoader(), interfaces, least, handler);
        return proxy;
    }

    private static Object newProxy(
            @Nullable ClassLoader loader, Set<Class<?>> interfaces, Class<?> least, InvocationHandler handler) {
        try {
            return Proxy.newProxyInstance(loader, interfaces.toArray(Class<?>[]::new), handler);
        } catch (IllegalArgumentException e) { // an interface that is not for everybody
            return Proxy.newProxyInstance(ToldDataSource.class.getClassLoader(), new Class<?>[] {least}, handler);
        }
    }

    /** A transaction that is bound to one of these is found by another. */
    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof ToldDataSource told && told.real.equals(real) && told.store == store;
    }

    @Override
    public int hashCode() {
        return real.hashCode();
    }

    @Override
    public String toString() {
        return real.toString();
    }
}
