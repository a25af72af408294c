package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.error.ZabbetException;
import java.sql.Connection;
import java.sql.SQLException;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/**
 * The one connection that a stage keeps for itself while it is open: opening one for each call would cost more than the
 * work, and the lease on the database lives as long as it does.
 */
public final class Session implements AutoCloseable {
    private static final int SECONDS_TO_ANSWER = 2;

    private final DataSource dataSource;
    private @Nullable Connection connection;
    private @Nullable Dialect dialect;
    private boolean autoCommit = true; // as it was handed out
    private @Nullable Run regain;
    private @Nullable String over;

    /** Work that gives a value. */
    @FunctionalInterface
    public interface Call<V> {
        V on(Connection connection) throws SQLException;
    }

    /** Work that gives none. */
    @FunctionalInterface
    public interface Run {
        void on(Connection connection) throws SQLException;
    }

    public Session(DataSource dataSource) {
        this.dataSource = dataSource;
    }

    /** Runs work; SQL errors are rethrown with {@code trouble} as prefix. */
    public synchronized <V> V call(String trouble, Call<V> call) {
        try {
            return call.on(open());
        } catch (SQLException e) {
            dropIfLost(e);
            Dialect known = dialect;
            String why;
            if (known == null) {
                why = "";
            } else if (known.isLocked(e)) {
                why = OpenTransactions.LOCKED;
            } else if (known.isFull(e)) {
                why = "the disk is full. The database says: ";
            } else {
                why = "";
            }
            throw new ZabbetException(trouble + ": " + why + e.getMessage(), e);
        }
    }

    /** Says which database it is, so that its troubles can be told from others. */
    public void speaks(Dialect found) {
        dialect = found;
    }

    public void run(String trouble, Run run) {
        call(trouble, open -> {
            run.on(open);
            return true;
        });
    }

    /**
     * Sets what a new connection has to do first if the current one is lost: take the lease again and look whether the
     * database is still this stage's. If it throws a {@link ZabbetException}, the session is over.
     */
    public void onRegain(Run first) {
        regain = first;
    }

    private Connection open() throws SQLException {
        if (over != null) {
            throw new ZabbetException(over);
        }
        Connection open = connection;
        if (open == null || open.isClosed()) {
            open = dataSource.getConnection();
            autoCommit = open.getAutoCommit();
            open.setAutoCommit(true);
            Run first = regain;
            try {
                if (first != null) {
                    first.on(open);
                }
            } catch (ZabbetException e) {
                over = e.getMessage();
                open.close();
                throw e;
            } catch (SQLException | RuntimeException e) {
                open.close();
                throw e;
            }
            connection = open;
        }
        return open;
    }

    /** A driver need not notice by itself that the server has gone away. */
    private void dropIfLost(SQLException e) {
        Connection open = connection;
        String state = String.valueOf(e.getSQLState());
        if (open == null || !(state.startsWith("08") || state.startsWith("57P") || state.startsWith("HY"))) {
            return;
        }
        try {
            if (!open.isValid(SECONDS_TO_ANSWER)) {
                open.close();
            }
        } catch (SQLException broken) {
            e.addSuppressed(broken);
        }
    }

    /** Tells whether the connection still answers, or another could take its place. */
    public synchronized boolean isAliveAgain() {
        if (isAlive()) {
            return true;
        }
        Connection lost = connection;
        if (lost == null || over != null) {
            return false;
        }
        try {
            lost.close();
            return open().isValid(SECONDS_TO_ANSWER);
        } catch (SQLException | ZabbetException e) {
            return false;
        }
    }

    /** Ends the session: every call says why. */
    public void end(String why) {
        over = why;
    }

    /** Tells whether the connection still answers. */
    public boolean isAlive() {
        try {
            return connection != null && connection.isValid(SECONDS_TO_ANSWER);
        } catch (SQLException e) {
            return false;
        }
    }

    @Override
    public void close() {
        Connection open = connection;
        connection = null;
        if (open != null) {
            try (open) {
                if (!autoCommit && !open.isClosed()) {
                    open.setAutoCommit(false); // a pool may have handed it out so, or all may share it
                }
            } catch (SQLException e) {
                throw new ZabbetException("The stage's connection cannot be closed: " + e.getMessage(), e);
            }
        }
    }
}
