package dev.zabbet.jdbc;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.value.Canon;
import dev.zabbet.internal.value.Inexact;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.DataType;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.sql.Types;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * What differs from one database to another: one class for each, stateless and thread-safe. What is given here is
 * standard SQL and JDBC; a dialect overrides what its database does in another way.
 */
interface Dialect {

    /** Returns the dialect of the database behind a connection. */
    static Dialect of(Connection connection) throws SQLException {
        String product = connection.getMetaData().getDatabaseProductName();
        return switch (product) {
            case "H2" -> new H2Dialect();
            case "PostgreSQL" -> new PostgresDialect();
            case "MariaDB" -> new MariaDbDialect();
            case "SQLite" -> new SqliteDialect();
            default ->
                throw new ZabbetException("Zabbet does not know the database " + product
                        + ". It knows H2, PostgreSQL, MariaDB and SQLite.");
        };
    }

    /** Returns the database's name for people: "H2". */
    String product();

    /** Tells which database this is. */
    Place place(Connection connection) throws SQLException;

    /** Reads the tables. */
    Schema readSchema(Connection connection) throws SQLException;

    /** Returns what notices changes in the tables. */
    Journal journal(Schema schema);

    /** As {@link #journal}, for a stage in one transaction; empty if it cannot be had there. Nothing need be waited for. */
    default Optional<Journal> journalTogether(Schema schema) {
        return Optional.empty();
    }

    /** Returns a name in quotes, as it stands in SQL. */
    default String quote(String name) {
        return '"' + name.replace("\"", "\"\"") + '"';
    }

    /** Returns a table's name as it stands in SQL. */
    default String name(Table table) {
        return table.sqlSchema().isEmpty()
                ? quote(table.sqlName())
                : quote(table.sqlSchema()) + "." + quote(table.sqlName());
    }

    /** Returns a table's name as a query takes it that wants each row once. */
    default String nameToRead(Table table) {
        return name(table);
    }

    /** Returns what stands at the end of a query, or a DELETE, that takes so many rows at most. */
    default String limit(long rows) {
        return " LIMIT " + rows;
    }

    /** Returns what stands between the columns and VALUES so that explicit numbers are taken. */
    default String overriding(Table table) {
        boolean always = table.columns().stream().anyMatch(c -> c.generation() == Generation.IDENTITY_ALWAYS);
        return always ? " OVERRIDING SYSTEM VALUE" : "";
    }

    /** Returns the text behind INSERT INTO and the table's name that stores a row of defaults. */
    default String allDefaults() {
        return " DEFAULT VALUES";
    }

    /** Returns what stands for a value of the column: usually a question mark. */
    default String placeholder(Column column) {
        return "?";
    }

    /** Returns the query that makes an empty one of what values of a column refer to outside of all tables, if they do. */
    default Optional<String> blankSql(Column column) {
        return Optional.empty();
    }

    /** Tells whether every user is shown all triggers of the tables, so that there are none if none is shown. */
    default boolean showsTriggers() {
        return true;
    }

    /** Tells whether decimals are kept and reckoned with exactly. */
    default boolean isExact() {
        return true;
    }

    /** Returns what stands for a value of the column where nothing else tells its type. */
    default String typed(Column column) {
        return "CAST(" + placeholder(column) + " AS " + column.type().sqlName() + ")";
    }

    /** Sets a parameter to a value in its form in memory. */
    default void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof Instant instant) {
            statement.setObject(index, instant.atOffset(ZoneOffset.UTC));
        } else {
            statement.setObject(index, value);
        }
    }

    /** Returns what {@link #bind} bound as it stands in SQL; it is not null. */
    default String literal(Object bound) {
        if (bound instanceof Boolean || bound instanceof Number && !isOutside(bound)) {
            return bound instanceof BigDecimal number
                    ? number.toPlainString()
                    : bound.toString().toUpperCase(Locale.ROOT);
        }
        if (bound instanceof byte[] bytes) {
            return "X'" + HexFormat.of().formatHex(bytes) + "'";
        }
        String text = bound.toString();
        return text.chars().anyMatch(Dialect::isLostInAFile) ? encoded(text) : "'" + text.replace("'", "''") + "'";
    }

    /** A client may end a text at such a character, change it, or take it for a command. */
    private static boolean isLostInAFile(int c) {
        return c < ' ' && c != '\n' && c != '\t' || c >= 0x7F && c < 0xA0 || c == 0xFEFF || c == 0x2028 || c == 0x2029;
    }

    /** Returns a text as it stands in SQL without any of its odd characters (ISO 9075-2, Unicode character literals). */
    default String encoded(String text) {
        StringBuilder encoded = new StringBuilder("U&'");
        text.chars().forEach(c -> {
            if (c == '\'' || c == '\\') {
                encoded.append((char) c).append((char) c);
            } else if (isLostInAFile(c)) {
                encoded.append(String.format("\\%04x", c));
            } else {
                encoded.append((char) c);
            }
        });
        return encoded.append('\'').toString();
    }

    private static boolean isOutside(Object number) {
        return number instanceof Double real && (real.isNaN() || real.isInfinite());
    }

    /** Returns the statements that a script of rows begins with, so that its literals mean what they should. */
    default List<String> scriptSettings() {
        return List.of();
    }

    /** Returns what a script leaves out before names of tables: whoever runs it says which database it is meant for. */
    default String leftOutOfScripts(Connection connection) throws SQLException {
        return "";
    }

    /** Returns the statement that moves a counter to a number, unless it is beyond; empty if it moves by itself. */
    default String scriptCounter(Table table, Column numbered, long next) {
        return "";
    }

    /** Returns what selects a column's value so that {@link #read} reads it, however often it is asked for. */
    default String selected(Column column, String name) {
        return name;
    }

    /** Tells whether the driver holds the result of a query whole, whatever is asked of it. */
    default boolean holdsResults() {
        return false;
    }

    /** Tells whether the values of a column are whole numbers that {@link ResultSet#getLong} gives. */
    default boolean readsAsLong(Column column) {
        return column.type().kind() == Kind.INTEGER;
    }

    /** Reads a value into its form in memory. */
    default @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        switch (column.type().kind()) {
            case BOOLEAN:
                boolean truth = rows.getBoolean(index);
                return rows.wasNull() ? null : truth;
            case INTEGER:
                long number = rows.getLong(index);
                return rows.wasNull() ? null : number;
            case DECIMAL:
                return rows.getBigDecimal(index);
            case FLOAT:
                BigDecimal real = rows.getBigDecimal(index);
                return real == null ? null : (Object) real.doubleValue();
            case FIXED_TEXT:
                String padded = rows.getString(index);
                return padded == null ? null : padded.stripTrailing();
            case TEXT, ENUM, JSON:
                return rows.getString(index);
            case BYTES:
                return rows.getBytes(index);
            case DATE:
                return rows.getObject(index, LocalDate.class);
            case TIME:
                return rows.getObject(index, LocalTime.class);
            case TIMESTAMP:
                return rows.getObject(index, LocalDateTime.class);
            case INSTANT:
                OffsetDateTime point = rows.getObject(index, OffsetDateTime.class);
                return point == null ? null : point.toInstant();
            case UUID:
                return rows.getObject(index, UUID.class);
            default:
                return rows.getObject(index);
        }
    }

    /** More numbers than that are not taken from a counter one by one. */
    int MANY = 10_000;

    /** Returns the sequences that have names. */
    default Sequences sequences() {
        return Sequences.NONE;
    }

    /** Returns by how much the counter of a numbered column moves for each number. */
    default long step(Connection connection, Column numbered) throws SQLException {
        return numbered.sequence().isPresent()
                ? sequences().step(connection, numbered.sequence().get())
                : 1;
    }

    /** Reserves consecutive numbers of a numbered column and returns the first; no row has or gets one of them. */
    long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException;

    /** Reserves as {@link #reserve} does for several tables at once, and leaves out those for which it cannot be done. */
    default Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        return new HashMap<>();
    }

    /** Tells whether somebody else may take numbers that were reserved, as those of a counter that only a row moves. */
    default boolean sharesReserved(Column numbered) {
        return false;
    }

    /** Returns the numbers that the numbered columns of the tables will give next, by table. */
    Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException;

    /**
     * As {@link #counters(Connection, List)}.
     *
     * @param told what the journal has just told of counters, if it tells of them
     */
    default Map<Table, Long> counters(Connection connection, List<Table> tables, @Nullable String told)
            throws SQLException {
        return counters(connection, tables);
    }

    /** Takes note of rows that the stage has stored. */
    default void stored(Load load) {}

    /** The rows that the stage had stored are gone. */
    default void rewound() {}

    /**
     * Leaves a counter for now that stands further on than it should, if that is worth it.
     *
     * @return false if it has to be set
     */
    default boolean leavesCounter(Table table, long next) {
        return false;
    }

    /** Returns the numbers that counters should give next which were left, and forgets them. */
    default Map<Table, Long> takeCountersLeft() {
        return Map.of();
    }

    /** Sets the number that a table's numbered column will give next. */
    void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException;

    /** Lets a table's numbered column begin where it began. */
    default void restart(Connection connection, Table table, Column numbered) throws SQLException {
        if (numbered.sequence().isPresent()) {
            try (java.sql.Statement statement = connection.createStatement()) {
                statement.execute("ALTER SEQUENCE " + numbered.sequence().get() + " RESTART");
            }
        } else {
            setCounter(connection, table, numbered, 1);
        }
    }

    /**
     * Runs work in one transaction in which references are not checked and the application's own triggers rest, as far
     * as they can be made to; commits, or rolls back if it fails.
     *
     * @return false if the connection has no right to that; nothing was run then
     */
    boolean withoutReferences(Connection connection, SqlWork work) throws SQLException;

    /**
     * Runs work as {@link #withoutReferences} does, and without a note in the journal.
     *
     * @return false if the connection has no right to that; nothing was run then
     */
    default boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        return withoutReferences(connection, work);
    }

    /** Runs work with a prepared statement that is wanted again and again. */
    default void often(Connection connection, String sql, StatementWork work) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            work.run(statement);
        }
    }

    /** Reads the rows of a query that is asked again and again with other numbers. */
    default void readOften(Connection connection, String sql, SchemaDraft.RowReader reader, long... numbers)
            throws SQLException {
        often(connection, sql, statement -> {
            for (int i = 0; i < numbers.length; i++) {
                statement.setLong(i + 1, numbers[i]);
            }
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    reader.read(rows);
                }
            }
        });
    }

    /** Returns a LIKE with a parameter for the pattern. */
    default String like(String column, boolean ignoreCase) {
        return (ignoreCase ? "LOWER(" + column + ") LIKE LOWER(?)" : column + " LIKE ?") + " ESCAPE '\\'";
    }

    /** Returns a pattern, in which a backslash stands before a {@code %} or {@code _} that means itself, for {@link #like}. */
    default String likePattern(String pattern, boolean ignoreCase) {
        return pattern;
    }

    /** Returns a condition that is true when column and parameter are equal or both null. */
    default String same(Column column) {
        return quote(column.sqlName()) + " IS NOT DISTINCT FROM " + placeholder(column);
    }

    /** Returns a statement that deletes one row, whatever it refers to, of those for which a condition holds. */
    default String deleteOne(Table table, String where) {
        return "DELETE FROM " + name(table) + where + limit(1);
    }

    /** Returns what gives a user the right to install triggers, for people. */
    default String howToAllowTriggers() {
        return "let it own the tables";
    }

    /** Returns the name of the constraint that a refusal speaks of, in the form to show, if the driver tells it. */
    default Optional<String> constraint(SQLException refusal) {
        return Optional.empty();
    }

    /** Prepares for a load that a killed process may leave half done; commits what is open. */
    default void beforeLoad(Connection connection, Load load) throws SQLException {}

    /** Does what {@link #beforeLoad} asks for at the end of the load's transaction. */
    default void endOfLoad(Connection connection) throws SQLException {}

    /** Refuses a database that holds a part of a load, where its product does not see to that itself. */
    default void requireWhole(Connection connection, Place place, Schema schema) throws SQLException {}

    /** Stores rows in the fastest way that the connection allows, inside the open transaction. */
    default boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        return false;
    }

    /** Sets up the stage's own connection. */
    default void prepare(Connection connection) throws SQLException {}

    /** Leaves the stage's own connection as it was before {@link #prepare}. */
    default void setBack(Connection connection) throws SQLException {}

    /** Tells whether the database refused something because the user has no right to it, or since it cannot do it there. */
    default boolean isMissingRight(SQLException refusal) {
        return "42501".equals(refusal.getSQLState());
    }

    /** Tells whether a row was refused since another has the same key. */
    default boolean isTwin(SQLException refusal) {
        return "23505".equals(refusal.getSQLState());
    }

    /** Tells whether a statement was given up since another connection holds what it needs. */
    default boolean isLocked(SQLException refusal) {
        return false;
    }

    /** Tells whether there was no room for what a statement writes (ISO 9075 knows no class for that; PostgreSQL's is 53100). */
    default boolean isFull(SQLException refusal) {
        String message = String.valueOf(refusal.getMessage()).toLowerCase(Locale.ROOT);
        return "53100".equals(refusal.getSQLState())
                || message.contains("sqlite_full")
                || message.contains("no space left")
                || message.contains("disk full")
                || message.contains("disk is full");
    }

    /** Tells whether a transaction sees nothing of what others commit after it has begun to read. */
    default boolean readsSnapshots() {
        return false;
    }

    /** Tells whether a statement that fails ends its transaction, so that it can only be rolled back. */
    default boolean abortsTransactions() {
        return false;
    }

    /** Tells whether a transaction has ended so. */
    default boolean isAborted(Connection connection) throws SQLException {
        return false;
    }

    /** Takes what keeps other processes from opening a stage here, as long as the connection lives; false if taken. */
    default boolean lock(Connection connection, Place place) throws SQLException {
        return true;
    }

    /** Gives back what {@link #lock} took, though the connection goes on to live: in a pool, say. */
    default void unlock(Connection connection, Place place) throws SQLException {}

    /** Returns who holds the database, for a message. */
    default String holder(Connection connection, Place place) throws SQLException {
        return "another process";
    }

    /** Returns why nothing can be written to this database at all, if that is so: a replica, say. */
    default Optional<String> readOnly(Connection connection) throws SQLException {
        return connection.isReadOnly() ? Optional.of("its connections are read-only") : Optional.empty();
    }

    /** Returns the table that holds our mark, as it stands in SQL. */
    default String markTable() {
        return "zabbet_dedicated";
    }

    /** Returns the table that holds the mark of one of the places of {@link #places}, as it stands in SQL. */
    default String markTable(Place place) {
        return markTable();
    }

    /**
     * Returns the databases that tables are in, each of which needs a mark and the lease.
     *
     * @param home the one that the connection leads to, which comes first
     */
    default List<Place> places(Connection connection, Place home, Schema schema) throws SQLException {
        return List.of(home);
    }

    /** Tells whether a table is in one of the places of {@link #places}. */
    default boolean isIn(Table table, Place place) {
        return true;
    }

    /** Returns the statements that drop the mark and whatever else is kept beside it. */
    default List<String> removing(Connection connection) throws SQLException {
        String mark = markTable();
        return List.of("DROP SCHEMA IF EXISTS " + mark.substring(0, mark.indexOf('.')) + " CASCADE");
    }

    /** Returns the statements that make the mark's table; they do nothing where it is there. */
    default List<String> createMark() {
        return List.of("CREATE TABLE IF NOT EXISTS " + markTable() + " (identity VARCHAR(500) NOT NULL PRIMARY KEY)");
    }

    /** Tells whether each return to a savepoint costs as much as all that has happened since it was set. */
    default boolean savepointsGrow() {
        return false;
    }

    /** Returns how many times a stage in one transaction has taken numbers that no rollback gives back. */
    default int taken() {
        return 0;
    }

    /** Gives numbers back that were taken since {@link #taken} returned this, after a rollback; as far as no commit is needed. */
    default void giveBack(Connection connection, int taken) throws SQLException {}

    /** Checks inside a transaction what its end would check, where the database can. */
    default void checkDeferred(Connection connection) throws SQLException {}

    /** Tells whether a refused batch tells which row it was. */
    default boolean tellsRefusedRow() {
        return true;
    }

    /** Drops all tables and whatever else an application's script makes; not our mark. */
    void dropAll(Connection connection) throws SQLException;

    /** Ends a database that lives only for one stage. */
    default void end(Connection connection) throws SQLException {}

    /** Returns the elements of an array in their form in memory; what does not fit its type stays as the driver gives it. */
    static @Nullable List<@Nullable Object> list(java.sql.@Nullable Array array, Column column) throws SQLException {
        return array == null
                ? null
                : list((Object[]) array.getArray(), column.type().element());
    }

    /** Returns the elements of an array in their form in memory. */
    static List<@Nullable Object> list(Object[] elements, Optional<DataType> type) {
        List<@Nullable Object> list = new ArrayList<>();
        for (Object element : elements) {
            list.add(element instanceof Object[] inner ? list(inner, type) : element(element, type));
        }
        return Collections.unmodifiableList(list);
    }

    private static @Nullable Object element(@Nullable Object element, Optional<DataType> type) {
        if (element == null || type.isEmpty() || type.get().kind() == Kind.OTHER) {
            return element;
        }
        boolean instant = type.get().kind() == Kind.INSTANT;
        Object modern = element instanceof Timestamp point
                ? instant ? point.toInstant() : point.toLocalDateTime()
                : element instanceof java.sql.Date day
                        ? day.toLocalDate()
                        : element instanceof java.sql.Time time ? time.toLocalTime() : element;
        try {
            return Canon.of(type.get(), modern);
        } catch (Inexact e) {
            return modern;
        }
    }

    /** Runs the statements that a query gives, and then leaves alone what is gone already. */
    static void runAll(Connection connection, String query) throws SQLException {
        List<String> statements = SchemaDraft.texts(connection, query);
        try (java.sql.Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
        }
    }

    /** Begins a transaction on a connection that commits each statement by itself. */
    default void begin(Connection connection) throws SQLException {
        connection.setAutoCommit(false);
    }

    /** Ends what {@link #begin} began. */
    default void commit(Connection connection) throws SQLException {
        connection.commit();
        connection.setAutoCommit(true);
    }

    /** Ends what {@link #begin} began, and takes it back. */
    default void rollBack(Connection connection) throws SQLException {
        connection.rollback();
        connection.setAutoCommit(true);
    }

    /** Runs work in one transaction: commits, or rolls back if it fails. */
    static void atomically(Connection connection, SqlWork work) throws SQLException {
        connection.setAutoCommit(false);
        try {
            work.run();
            connection.commit();
        } catch (SQLException | RuntimeException e) {
            connection.rollback();
            throw e;
        } finally {
            connection.setAutoCommit(true);
        }
    }

    /** Work with a prepared statement; results are closed by it. */
    @FunctionalInterface
    interface StatementWork {
        void run(PreparedStatement statement) throws SQLException;
    }

    /** Work on a connection. */
    @FunctionalInterface
    interface SqlWork {
        void run() throws SQLException;
    }
}
