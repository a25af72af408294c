package dev.zabbet.jdbc;

import dev.zabbet.jdbc.internal.connect.PlainDataSource;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** A source of connections that writes down what is sent to the database: statements, commits, rollbacks, savepoints. */
final class CountingDataSource extends PlainDataSource {
    private static final Set<String> SENT = Set.of("commit", "rollback", "setSavepoint", "releaseSavepoint");

    private final DataSource real;
    private final List<String> sent = new ArrayList<>();

    CountingDataSource(DataSource real) {
        this.real = real;
    }

    /** Returns what was sent since the last call. */
    List<String> sent() {
        synchronized (sent) {
            List<String> all = List.copyOf(sent);
            sent.clear();
            return all;
        }
    }

    private void send(String what) {
        synchronized (sent) {
            sent.add(what.length() > 300 ? what.substring(0, 300) + " …" : what);
        }
    }

    @Override
    public Connection getConnection() throws SQLException {
        return connection(real.getConnection());
    }

    @Override
    public Connection getConnection(String user, String password) throws SQLException {
        return connection(real.getConnection(user, password));
    }

    private Connection connection(Connection of) {
        return proxy(Connection.class, of, (method, arguments) -> {
            if (SENT.contains(method.getName())) {
                send(method.getName());
            }
            Object result = invoke(method, of, arguments);
            return result instanceof Statement statement
                            && method.getReturnType().isInterface()
                    ? statement(
                            method.getReturnType(), statement, arguments == null ? "" : String.valueOf(arguments[0]))
                    : result;
        });
    }

    private Object statement(Class<?> type, Statement statement, String prepared) {
        return proxy(type, statement, (method, arguments) -> {
            if (method.getName().startsWith("execute")) {
                send(arguments == null || !(arguments[0] instanceof String sql) ? prepared : sql);
            }
            return invoke(method, statement, arguments);
        });
    }

    /** What a proxy does. */
    @FunctionalInterface
    private interface Call {
        @Nullable
        Object of(Method method, @Nullable Object @Nullable [] arguments) throws Throwable;
    }

    private static <T> T proxy(Class<T> type, Object real, Call call) {
        return type.cast(Proxy.newProxyInstance(
                CountingDataSource.class.getClassLoader(), new Class<?>[] {type}, (proxy, method, arguments) -> {
                    if (method.getName().equals("equals")) {
                        return arguments != null && proxy == arguments[0];
                    }
                    return call.of(method, arguments);
                }));
    }

    private static @Nullable Object invoke(Method method, Object real, @Nullable Object @Nullable [] arguments)
            throws Throwable {
        try {
            return method.invoke(real, arguments);
        } catch (InvocationTargetException e) {
            throw e.getCause() == null ? e : e.getCause();
        }
    }
}
