package dev.zabbet.internal.memory;

import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Permits;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Predicate;

/** What a role may do, kept as predicates over rows; what is allowed later can be taken back. */
public final class RolePermits implements Permits {
    private final Schema schema;
    private final String role;
    private final List<Permit> permits = new ArrayList<>();

    /** What is done with a row. */
    enum Operation {
        READ("read"),
        ADD("add rows to"),
        CHANGE("change"),
        REMOVE("remove rows from");

        final String words;

        Operation(String words) {
            this.words = words;
        }
    }

    private record Permit(String table, Operation operation, Predicate<Row> rows) {}

    /**
     * @param schema the tables
     * @param role the role's name
     */
    public RolePermits(Schema schema, String role) {
        this.schema = schema;
        this.role = role;
    }

    @Override
    public Permits reads(String table, Predicate<Row> rows) {
        return permit(table, Operation.READ, rows);
    }

    @Override
    public Permits adds(String table, Predicate<Row> rows) {
        return permit(table, Operation.ADD, rows);
    }

    @Override
    public Permits changes(String table, Predicate<Row> rows) {
        return permit(table, Operation.CHANGE, rows);
    }

    @Override
    public Permits removes(String table, Predicate<Row> rows) {
        return permit(table, Operation.REMOVE, rows);
    }

    @Override
    public Permits all(String table) {
        return reads(table, row -> true)
                .adds(table, row -> true)
                .changes(table, row -> true)
                .removes(table, row -> true);
    }

    /** Returns what takes back whatever will have been allowed from now on. */
    public synchronized Runnable mark() {
        int now = permits.size();
        return () -> takeBack(now);
    }

    private synchronized void takeBack(int to) {
        permits.subList(to, permits.size()).clear();
    }

    private synchronized Permits permit(String table, Operation operation, Predicate<Row> rows) {
        permits.add(new Permit(
                schema.require(table).name(),
                operation,
                Words.notNull(rows, "rows", operation.name().toLowerCase(java.util.Locale.ROOT))));
        return this;
    }

    /** Returns which rows of a table are there for an operation; refuses where it is not allowed at all. */
    synchronized Predicate<Row> rows(Table table, Operation operation) {
        List<Predicate<Row>> any = permits.stream()
                .filter(p -> p.table().equals(table.name()) && p.operation() == operation)
                .map(Permit::rows)
                .toList();
        if (any.isEmpty()) {
            throw new ConstraintException(
                    "Role " + role + " may not " + operation.words + " " + table.name() + ".",
                    table.name(),
                    null,
                    ConstraintException.DENIED,
                    null,
                    null);
        }
        return row -> any.stream().anyMatch(p -> p.test(row));
    }

    void require(Table table, Operation operation, Row row) {
        if (!rows(table, operation).test(row)) {
            throw new ConstraintException(
                    "Role " + role + " may not "
                            + (operation == Operation.ADD
                                    ? "add this row to " + table.name()
                                    : "make this of a row of " + table.name())
                            + ".\nThe row: " + row,
                    table.name(),
                    null,
                    ConstraintException.DENIED,
                    row,
                    null);
        }
    }
}
