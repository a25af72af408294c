package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Schema;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.LongSummaryStatistics;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The sequences of a database that have names, which stand as SQL writes them: quoted and with their schema. */
public interface Sequences {

    /** A database that has none. */
    Sequences NONE = new Sequences() {
        @Override
        public List<String> names(Connection connection, Schema schema) {
            return List.of();
        }

        @Override
        public Map<String, Long> next(Connection connection, Collection<String> names) {
            return Map.of();
        }

        @Override
        public void restart(Connection connection, String name, long next) {
            throw new IllegalArgumentException(name);
        }

        @Override
        public long step(Connection connection, String name) {
            return 1;
        }

        @Override
        public Set<String> inBlocks(Connection connection, Collection<String> names) {
            return Set.of();
        }
    };

    /**
     * Returns the names of all sequences of the application that are not an identity column's own.
     *
     * @param schema the tables, which tell where an application has sequences at all
     */
    List<String> names(Connection connection, Schema schema) throws SQLException;

    /** Returns the number that each will give next; one that cannot be found out, or is not there, is left out. */
    Map<String, Long> next(Connection connection, Collection<String> names) throws SQLException;

    /**
     * As {@link #next(Connection, Collection)}.
     *
     * @param told what the journal has just told of sequences, if it tells of them
     */
    default Map<String, Long> next(Connection connection, Collection<String> names, @Nullable String told)
            throws SQLException {
        return next(connection, names);
    }

    /** Sets the number that a sequence will give next. */
    void restart(Connection connection, String name, long next) throws SQLException;

    /** Sets the numbers that sequences will give next. */
    default void restart(Connection connection, Map<String, Long> next) throws SQLException {
        for (Map.Entry<String, Long> sequence : next.entrySet()) {
            restart(connection, sequence.getKey(), sequence.getValue());
        }
    }

    /** Returns by how much a sequence moves for each number. */
    long step(Connection connection, String name) throws SQLException;

    /**
     * Returns the sequences of which others keep numbers in their memory that they will use later: each number of one that
     * moves in longer steps stands for a block. A rewind does not reach that memory, so that such a sequence is never set
     * back: whoever took a block goes on in it, and nobody else may be given it again.
     */
    Set<String> inBlocks(Connection connection, Collection<String> names) throws SQLException;

    /**
     * Takes consecutive numbers and returns the first.
     *
     * @param least the least number that may be given
     */
    default long reserve(Connection connection, String name, long least, int count) throws SQLException {
        return setForward(connection, name, least, count);
    }

    /** Moves a sequence past consecutive numbers, for very many: others that take some at that very moment may get the same. */
    default long setForward(Connection connection, String name, long least, int count) throws SQLException {
        long first = Math.max(next(connection, List.of(name)).getOrDefault(name, 1L), least);
        restart(connection, name, beyond(first, count, step(connection, name)));
        return first;
    }

    /** Takes so many numbers one after another, in one statement, and says which. */
    interface Taking {
        /** Returns the least and the greatest of them. */
        LongSummaryStatistics take(long numbers) throws SQLException;
    }

    /** Runs a query each of whose rows takes a number: an outer query might let some be taken more than once. */
    static LongSummaryStatistics taken(Connection connection, String sql) throws SQLException {
        LongSummaryStatistics taken = new LongSummaryStatistics();
        SchemaDraft.each(connection, sql, rows -> taken.accept(rows.getLong(1)));
        return taken;
    }

    /**
     * Takes consecutive numbers as anybody takes one, so that whoever else takes some meanwhile gets others.
     *
     * @param least the least number that may be given
     */
    default long reserveAsOthersDo(Connection connection, String name, long least, int count, Taking taking)
            throws SQLException {
        long step = step(connection, name);
        long takes = step > 0 ? beyond(0, count, step) / step : 0;
        if (step <= 0 || takes > KeyNumbers.MANY) {
            return setForward(connection, name, least, count);
        }
        while (true) {
            LongSummaryStatistics taken = taking.take(takes);
            if (taken.getMin() < least) {
                if (next(connection, List.of(name)).getOrDefault(name, least) < least) {
                    restart(connection, name, least); // rows with explicit keys lie beyond the sequence
                }
            } else if (taken.getMax() - taken.getMin() == (takes - 1) * step) {
                return taken.getMin();
            }
        }
    }

    /**
     * Lets sequences give next what they would have given then.
     *
     * @param told what the journal has just told of sequences, if it tells of them
     */
    default void setBack(Connection connection, Map<String, Long> then, @Nullable String told) throws SQLException {
        Map<String, Long> now = next(connection, then.keySet(), told);
        Map<String, Long> moved = new LinkedHashMap<>();
        then.forEach((name, next) -> {
            if (!next.equals(now.getOrDefault(name, next))) {
                moved.put(name, next);
            }
        });
        if (!moved.isEmpty()) {
            restart(connection, moved);
        }
    }

    /**
     * Returns the number that a sequence continues with after consecutive ones. With an increment above 1, a client may use
     * the whole block around the value, upwards or downwards, so both have to be free.
     */
    static long beyond(long first, long count, long step) {
        if (step < 0) {
            return first + step; // downwards it meets none of them
        }
        return step == 1 ? first + count : first + step * ((count + 2 * step - 1) / step);
    }
}
