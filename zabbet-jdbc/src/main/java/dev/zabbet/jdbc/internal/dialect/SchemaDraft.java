package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.TableNature.Form;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A schema while it is being read: tables found by whatever identifies them in the catalog. */
public final class SchemaDraft {
    /** Stands between names that are one key; no database has it in a name, as some have line breaks. */
    public static final String BETWEEN = "\u0000";

    private static final int READINGS = 20;

    private final Map<String, TableDraft> tables = new LinkedHashMap<>();
    private final Map<String, String> leftOut = new LinkedHashMap<>();
    private final Map<String, Naming> namings = new HashMap<>();
    private final boolean folding;

    /** @param folding whether the database folds names to upper case, so that they are shown in lower case */
    public SchemaDraft(boolean folding) {
        this.folding = folding;
    }

    /** A table while it is being read; its columns are found by exact name or by number. */
    public static final class TableDraft {
        final String schema;
        public final String exact;
        public final String name;
        final Map<String, Column> columns = new LinkedHashMap<>();
        public final Map<Integer, String> numbers = new HashMap<>();
        final Naming naming;
        public Optional<UniqueKey> primaryKey = Optional.empty();
        public final List<UniqueKey> uniques = new ArrayList<>();
        public final List<Reference> references = new ArrayList<>();
        public final List<Check> checks = new ArrayList<>();
        public final List<String> triggers = new ArrayList<>();
        public Form form = Form.TABLE;

        public @Nullable String parent;

        TableDraft(String schema, String exact, String name, boolean folding) {
            this.schema = schema;
            this.exact = exact;
            this.name = name;
            this.naming = new Naming(folding);
        }

        public void column(
                String exactName,
                DataType type,
                boolean nullable,
                @Nullable String defaultText,
                Generation generation,
                @Nullable String sequence) {
            numbers.put(numbers.size() + 1, exactName);
            columns.put(
                    exactName,
                    new Column(
                            naming.shown(exactName),
                            exactName,
                            type,
                            nullable,
                            Optional.ofNullable(defaultText),
                            generation,
                            Optional.ofNullable(sequence)));
        }

        /** Returns the name to show of the column with this exact name. */
        public String shown(String exactName) {
            Column column = columns.get(exactName);
            if (column == null) {
                column = columns.values().stream()
                        .filter(c -> c.sqlName().equalsIgnoreCase(exactName))
                        .findFirst()
                        .orElseThrow(() -> new MovedException(name + " has no column " + exactName));
            }
            return column.name();
        }

        /** Returns the names to show of columns with these exact names. */
        public List<String> shown(List<String> exactNames) {
            return exactNames.stream().map(this::shown).toList();
        }

        /** Adds a unique key, unless one over the same columns is known. */
        public void unique(UniqueKey key) {
            boolean known = key.isPlain()
                    && (uniques.stream()
                                    .anyMatch(u -> u.isPlain()
                                            && u.columns().equals(key.columns())
                                            && u.nullsDistinct() == key.nullsDistinct())
                            || primaryKey
                                    .filter(p -> p.columns().equals(key.columns()))
                                    .isPresent());
            if (!known) {
                uniques.add(key);
            }
        }

        private Table table() {
            return new Table(
                    name,
                    schema,
                    exact,
                    List.copyOf(columns.values()),
                    primaryKey,
                    uniques,
                    references,
                    checks,
                    new TableNature(form, Optional.ofNullable(parent), triggers));
        }
    }

    /** Adds a table; a table outside the current schema is shown with its schema before it. */
    public TableDraft add(String id, String schema, String exact, boolean current) {
        Naming naming = namings.computeIfAbsent(schema, s -> new Naming(folding));
        String shown = naming.shown(exact);
        String name = current ? shown : new Naming(folding).shown(schema) + "." + shown;
        TableDraft draft = new TableDraft(schema, exact, name, folding);
        tables.put(id, draft);
        return draft;
    }

    /** Leaves a table out, which may have been added. */
    public void leaveOut(String id, String shown, String why) {
        TableDraft known = tables.remove(id);
        leftOut.put(known == null ? shown : known.name, why);
    }

    public Optional<TableDraft> find(@Nullable String id) {
        return Optional.ofNullable(id == null ? null : tables.get(id));
    }

    /** Returns a table that was there when the tables were listed; if it was not, they are read {@link #steadily again}. */
    public TableDraft require(String id) {
        TableDraft known = tables.get(id);
        if (known == null) {
            throw new MovedException("there is no table " + id);
        }
        return known;
    }

    public boolean has(@Nullable String id) {
        return id != null && tables.containsKey(id);
    }

    public List<TableDraft> all() {
        return List.copyOf(tables.values());
    }

    public Schema schema() {
        return schema(true);
    }

    public Schema schema(boolean enforcesTypes) {
        Set<String> names = tables.values().stream().map(draft -> draft.name).collect(Collectors.toSet());
        tables.values().forEach(draft -> draft.references.removeIf(reference -> !names.contains(reference.target())));
        return new Schema(tables.values().stream().map(TableDraft::table).toList(), enforcesTypes, leftOut);
    }

    /** A domain's condition speaks of VALUE; for the table it speaks of the column with this exact name. */
    public static Check onColumn(Check check, String column) {
        String quoted = '"' + column.replace("\"", "\"\"") + '"';
        return new Check(check.name(), check.text().replaceAll("\\bVALUE\\b", Matcher.quoteReplacement(quoted)));
    }

    public static Reference.Action action(String rule) {
        return switch (rule) {
            case "CASCADE", "c" -> Reference.Action.CASCADE;
            case "SET NULL", "n" -> Reference.Action.SET_NULL;
            case "SET DEFAULT", "d" -> Reference.Action.SET_DEFAULT;
            default -> Reference.Action.REFUSE;
        };
    }

    /** Reads a whole schema, by several queries. */
    @FunctionalInterface
    public interface WholeReader {
        Schema read() throws SQLException;
    }

    /** Thrown when a later query tells of a table or a column that an earlier one did not list. */
    private static final class MovedException extends RuntimeException {
        MovedException(String what) {
            super(what, null, false, false);
        }
    }

    /** Returns what a reader throws that has found tables to be moved while it read; they are read {@link #steadily again}. */
    public static RuntimeException moved(String what) {
        return new MovedException(what);
    }

    /**
     * Reads a schema; once more if others made or dropped tables between its queries. A table without columns was dropped
     * after it had been listed.
     */
    public static Schema steadily(WholeReader reader) throws SQLException {
        return steadily(reader, false);
    }

    /**
     * Reads a schema as {@link #steadily(WholeReader)}.
     *
     * @param mayBeBare whether the database has tables without columns: one that two more readings find so as well is taken
     *     for one of these
     */
    public static Schema steadily(WholeReader reader, boolean mayBeBare) throws SQLException {
        Set<String> before = Set.of();
        int alike = 0;
        String last = "";
        for (int reading = 0; reading < READINGS; reading++) {
            try {
                Schema schema = reader.read();
                Set<String> bare = schema.tables().stream()
                        .filter(table -> table.columns().isEmpty())
                        .map(Table::name)
                        .collect(Collectors.toSet());
                alike = bare.equals(before) ? alike + 1 : 1;
                if (bare.isEmpty() || (mayBeBare && alike == 3)) {
                    return schema;
                }
                before = bare;
            } catch (MovedException moved) {
                alike = 0;
                last = moved.getMessage();
            }
        }
        throw new SQLException("others make and drop tables in this database all the time: it was read " + READINGS
                + " times, and each time they had changed before the reading was over. " + last);
    }

    /** Reads one row of a catalog query. */
    @FunctionalInterface
    public interface RowReader {
        void read(ResultSet rows) throws SQLException;
    }

    /** Returns the first column of a query. */
    public static List<String> texts(Connection connection, String sql) throws SQLException {
        List<String> texts = new ArrayList<>();
        each(connection, sql, rows -> texts.add(rows.getString(1)));
        return texts;
    }

    public static Reference.Deferral deferral(boolean possible, boolean initially) {
        if (!possible) {
            return Reference.Deferral.NEVER;
        }
        return initially ? Reference.Deferral.INITIALLY : Reference.Deferral.POSSIBLE;
    }

    /** What is made of a row. */
    public interface RowMapper<T> {
        @Nullable
        T map(ResultSet rows) throws SQLException;
    }

    /** Returns what the first row holds; empty without rows, and if it holds null. */
    public static <T> Optional<T> first(Connection connection, String sql, RowMapper<T> mapper) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            return rows.next() ? Optional.ofNullable(mapper.map(rows)) : Optional.empty();
        }
    }

    /** Tells whether a query finds any row. */
    public static boolean exists(Connection connection, String sql) throws SQLException {
        return first(connection, sql, rows -> true).isPresent();
    }

    public static void each(Connection connection, String sql, RowReader reader) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            while (rows.next()) {
                reader.read(rows);
            }
        }
    }
}
