package dev.zabbet.store;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** A store refused a row; the message names the table, the row and the constraint, and gives the store's own words. */
public final class ConstraintException extends ZabbetException {
    private static final long serialVersionUID = 1L;

    /** The SQLState of what a role may not do (ISO 9075, class 42; PostgreSQL's "insufficient privilege"). */
    public static final String DENIED = "42501";

    /**
     * The SQLState of a change that another made impossible (ISO 9075, class 40, "serialization failure"): of an object whose
     * row has another version by now.
     */
    public static final String STALE = "40001";

    private final String table;
    private final @Nullable String constraint;
    private final String sqlState;
    private final transient @Nullable Row row;

    /**
     * @param message the whole message
     * @param table the table's name
     * @param constraint the constraint's name; null if it is not known
     * @param sqlState the SQLState of the violation (ISO 9075, class 23 for integrity constraints)
     * @param row the row that was refused; null if it is not known
     * @param cause the store's own exception; null if there is none
     */
    public ConstraintException(
            String message,
            String table,
            @Nullable String constraint,
            String sqlState,
            @Nullable Row row,
            @Nullable Throwable cause) {
        super(message, cause);
        this.table = table;
        this.constraint = constraint;
        this.sqlState = sqlState;
        this.row = row;
    }

    /** {@return the table's name} */
    public String table() {
        return table;
    }

    /** {@return the constraint's name, if it is known} */
    public Optional<String> constraint() {
        return Optional.ofNullable(constraint);
    }

    /** {@return the SQLState of the violation} */
    public String sqlState() {
        return sqlState;
    }

    /** {@return the row that was refused, if it is known; empty after serialisation} */
    public Optional<Row> row() {
        return Optional.ofNullable(row);
    }
}
