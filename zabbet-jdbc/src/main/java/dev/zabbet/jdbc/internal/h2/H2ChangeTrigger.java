package dev.zabbet.jdbc.internal.h2;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ThreadLocalRandom;
import org.h2.tools.TriggerAdapter;
import org.jspecify.annotations.Nullable;

/**
 * The trigger that notes changes of rows in H2. H2 makes an object of it for each trigger and knows it by the trigger's
 * name alone; the table's name changes while a table is altered, so the trigger's own name says whom to tell.
 */
public final class H2ChangeTrigger extends TriggerAdapter {
    private static final Map<String, Listener> LISTENERS = new ConcurrentHashMap<>();

    /** Whoever is told of changed rows. */
    @FunctionalInterface
    public interface Listener {
        /**
         * Called in the transaction that changes the row.
         *
         * @param trigger the trigger's name
         * @param before the row before; null if it is being stored
         * @param after the row after; null if it is being deleted
         */
        void changed(Connection connection, String trigger, @Nullable ResultSet before, @Nullable ResultSet after)
                throws SQLException;
    }

    /** Called by H2. */
    public H2ChangeTrigger() {}

    /** Tells changes to a listener: of triggers whose name begins with this prefix. */
    public static void listen(String prefix, Listener listener) {
        LISTENERS.put(prefix, listener);
    }

    /** Ends {@link #listen}. */
    public static void silence(String prefix) {
        LISTENERS.remove(prefix);
    }

    /** Returns the part of a trigger's name that says whom to tell. */
    public static String prefix(String trigger) {
        return trigger.substring(0, trigger.indexOf('_', "ZABBET_".length()) + 1);
    }

    @Override
    public void fire(Connection connection, @Nullable ResultSet before, @Nullable ResultSet after) throws SQLException {
        Listener listener = LISTENERS.get(prefix(triggerName));
        if (listener != null) {
            listener.changed(connection, triggerName, before, after);
        } else {
            noteThatNobodyListens(connection);
        }
    }

    /**
     * The process that noted changes is dead, and another one opened its file and writes: whoever settles what is left has to know that
     * not all was noted.
     */
    private void noteThatNobodyListens(Connection connection) {
        try (PreparedStatement marker = connection.prepareStatement(
                "INSERT INTO ZABBET.JOURNAL SELECT CAST(? AS BIGINT), ?, NULL, NULL WHERE @ZABBET_QUIET IS NULL")) {
            marker.setLong(1, -1 - ThreadLocalRandom.current().nextLong(Long.MAX_VALUE));
            marker.setString(2, tableName);
            marker.executeUpdate();
        } catch (SQLException e) {
            System.getLogger("dev.zabbet.jdbc").log(System.Logger.Level.DEBUG, "There is no journal any more.", e);
        }
    }
}
