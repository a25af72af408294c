package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.jdbc.internal.connect.PlainDataSource;
import java.lang.reflect.InvocationHandler;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.sql.Statement;
import org.jspecify.annotations.Nullable;

/**
 * A source of connections that all are one connection, in a transaction that is never committed. What the application
 * takes for its transaction lies between savepoints: a commit leaves it in place, a rollback takes it back.
 */
public final class SharedTransaction extends PlainDataSource {
    private final Connection real;
    private final Dialect dialect;
    private final boolean autoCommit; // as it was handed out
    private boolean running;
    private boolean joined; // somebody else began it, works in it and ends it
    private @Nullable Spot here; // as long as nothing has happened since
    private @Nullable Handle busy;

    private SharedTransaction(Connection real, Dialect dialect, boolean autoCommit) {
        this.real = real;
        this.dialect = dialect;
        this.autoCommit = autoCommit;
    }

    /**
     * Returns the source of a connection that is set up; its transaction has not begun.
     *
     * @param autoCommit what the connection goes back with
     */
    public static SharedTransaction of(Connection connection, Dialect dialect, boolean autoCommit) {
        return new SharedTransaction(connection, dialect, autoCommit);
    }

    /** Returns the source of a connection that somebody else has a transaction open on, and will end. */
    public static SharedTransaction joined(Connection connection, Dialect dialect) {
        SharedTransaction transaction = new SharedTransaction(connection, dialect, false);
        transaction.running = true;
        transaction.joined = true;
        return transaction;
    }

    public void begin() throws SQLException {
        real.setAutoCommit(false);
        running = true;
    }

    @Override
    public Connection getConnection() {
        return proxy(Connection.class, new Handle());
    }

    @Override
    public Connection getConnection(String user, String password) {
        return getConnection();
    }

    /** Tells whether a connection is one that is handed out here. */
    public static boolean has(Connection connection) {
        return Proxy.isProxyClass(connection.getClass()) && Proxy.getInvocationHandler(connection) instanceof Handle;
    }

    /** Returns the real connection of one that is handed out here, for statements that cannot fail; others as they are. */
    public static Connection direct(Connection connection) throws SQLException {
        if (Proxy.isProxyClass(connection.getClass())
                && Proxy.getInvocationHandler(connection) instanceof Handle handle) {
            return handle.direct();
        }
        return connection;
    }

    /** Returns the present point; the last one, if nothing has happened since, so that they do not pile up test by test. */
    public Spot spot() throws SQLException {
        Spot known = here;
        if (known == null || joined) {
            known = new Spot(real.setSavepoint());
            here = known;
        }
        return known;
    }

    /** Tells whether somebody else began it. */
    public boolean isJoined() {
        return joined;
    }

    /** Tells whether a failed statement has ended it. */
    public boolean isAborted() throws SQLException {
        return dialect.isAborted(real);
    }

    /** A point of the transaction that can be come back to. */
    public static final class Spot {
        private Savepoint savepoint;

        private Spot(Savepoint savepoint) {
            this.savepoint = savepoint;
        }
    }

    /** Takes back all that was done after a savepoint; it stays valid. */
    public void backTo(Spot spot) throws SQLException {
        Handle open = busy;
        if (open != null) {
            open.begun = null;
            busy = null;
        }
        rollBack(spot.savepoint);
        if (dialect.savepointsGrow()) {
            real.releaseSavepoint(spot.savepoint);
            spot.savepoint = real.setSavepoint();
        }
        here = spot;
    }

    private void rollBack(Savepoint savepoint) throws SQLException {
        try {
            real.rollback(savepoint);
        } catch (SQLException e) {
            throw new SQLException(
                    "The transaction is no longer the one that the stage began, so that it cannot be taken back."
                            + " A statement such as CREATE or ALTER TABLE commits on " + dialect.product()
                            + "; it does not go with a stage in one transaction. (" + e.getMessage() + ")",
                    e.getSQLState(),
                    e);
        }
    }

    /** Ends the transaction: nothing of it stays, and what has noted its changes rests. */
    public void end(@Nullable Journal journal) throws SQLException {
        try (real) {
            real.rollback();
            real.setAutoCommit(true);
            if (journal != null) {
                journal.rest(real);
            }
            dialect.setBack(real);
            real.setAutoCommit(autoCommit);
        }
    }

    private static <T> T proxy(Class<T> type, InvocationHandler handler) {
        return type.cast(
                Proxy.newProxyInstance(SharedTransaction.class.getClassLoader(), new Class<?>[] {type}, handler));
    }

    private static @Nullable Object invoke(Method method, Object target, @Nullable Object @Nullable [] arguments)
            throws Throwable {
        try {
            return method.invoke(target, arguments);
        } catch (InvocationTargetException e) {
            throw e.getCause() == null ? e : e.getCause();
        }
    }

    /** What the application holds for a connection. */
    private final class Handle implements InvocationHandler {
        private boolean autoCommit = true;
        private boolean closed;
        private @Nullable Savepoint begun;

        @Override
        public @Nullable Object invoke(Object proxy, Method method, @Nullable Object @Nullable [] arguments)
                throws Throwable {
            synchronized (SharedTransaction.this) {
                String name = method.getName();
                switch (name) {
                    case "close", "abort":
                        if (!closed) {
                            closed = true;
                            undo();
                        }
                        return null;
                    case "isClosed":
                        return closed || real.isClosed();
                    case "getAutoCommit":
                        return autoCommit;
                    case "setAutoCommit":
                        keep();
                        autoCommit = arguments == null || (Boolean) arguments[0];
                        return null;
                    case "commit":
                        keep();
                        return null;
                    case "rollback":
                        if (arguments == null || arguments.length == 0) {
                            undo();
                            return null;
                        }
                        break;
                    case "setTransactionIsolation", "setReadOnly":
                        return null; // neither can be changed in a transaction
                    case "hashCode":
                        return System.identityHashCode(proxy);
                    case "equals":
                        return arguments != null && proxy == arguments[0];
                    default:
                        break;
                }
                if (closed) {
                    throw new SQLException("The connection is closed.", "08003");
                }
                here = null; // a statement is made, or something else is asked for
                if (name.equals("setSavepoint")) {
                    begin();
                }
                Object result = SharedTransaction.invoke(method, real, arguments);
                return result instanceof Statement made
                                && method.getReturnType().isInterface()
                        ? statement(method.getReturnType(), made, (Connection) proxy)
                        : result;
            }
        }

        Connection direct() throws SQLException {
            here = null;
            requireNoOther();
            return real;
        }

        private void requireNoOther() throws SQLException {
            Handle other = busy;
            if (other != null && other != this) {
                throw new SQLException("Another connection has a transaction open. In a stage in one transaction all"
                        + " connections are one, so that only one at a time can have changes open: commit or close the"
                        + " other first, or open the stage without a transaction.");
            }
        }

        private Object statement(Class<?> type, Statement statement, Connection connection) {
            return proxy(type, (proxy, method, arguments) -> {
                if (method.getName().equals("getConnection")) {
                    return connection;
                }
                if (method.getName().equals("equals")) {
                    return arguments != null && proxy == arguments[0];
                }
                if (!method.getName().startsWith("execute")) {
                    return SharedTransaction.invoke(method, statement, arguments);
                }
                synchronized (SharedTransaction.this) {
                    return execute(method, statement, arguments);
                }
            });
        }

        /** A statement of its own is taken back alone if it fails, as it would be outside a transaction. */
        private @Nullable Object execute(Method method, Statement statement, @Nullable Object @Nullable [] arguments)
                throws Throwable {
            here = null;
            requireNoOther();
            if (!running) {
                return SharedTransaction.invoke(method, statement, arguments);
            }
            if (!autoCommit) {
                begin();
                return SharedTransaction.invoke(method, statement, arguments);
            }
            Savepoint before = real.setSavepoint();
            try {
                return SharedTransaction.invoke(method, statement, arguments);
            } catch (SQLException e) {
                rollBack(before);
                throw e;
            }
        }

        private void begin() throws SQLException {
            if (!autoCommit && begun == null) {
                begun = real.setSavepoint();
                busy = this;
            }
        }

        private void keep() throws SQLException {
            Savepoint since = begun;
            if (since == null) {
                return;
            }
            try {
                dialect.checkDeferred(real);
            } catch (SQLException e) {
                undo();
                throw e;
            }
            begun = null;
            busy = null;
        }

        private void undo() throws SQLException {
            Savepoint since = begun;
            if (since != null) {
                begun = null;
                busy = null;
                rollBack(since);
            }
        }
    }
}
