package dev.zabbet.jdbc;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Kind;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLDataException;
import java.sql.SQLException;
import java.sql.Statement;
import java.sql.Types;
import java.time.DateTimeException;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** MariaDB. */
final class MariaDbDialect implements Dialect {
    private static final Pattern CONSTRAINT = Pattern.compile(
            "CONSTRAINT `([^`]+)`|for key '([^']+)'|[`.]([^`.]+)` failed for|Column '([^']+)' cannot be null");

    /** References are unchecked, and triggers rest; those of the journal too, if asked for. */
    static final String UNCHECKED = "SET @zabbet_rest = 1, @zabbet_quiet = {quiet}, foreign_key_checks = 0,"
            + " check_constraint_checks = 0, sql_mode = CONCAT(@@sql_mode, ',NO_AUTO_VALUE_ON_ZERO')";

    /** All is as before {@link #UNCHECKED}. */
    static final String CHECKED = "SET @zabbet_rest = NULL, @zabbet_quiet = NULL, foreign_key_checks = 1,"
            + " check_constraint_checks = 1, sql_mode = REPLACE(@@sql_mode, 'NO_AUTO_VALUE_ON_ZERO', '')";

    private final MariaDbSequences sequences = new MariaDbSequences(this);
    private @Nullable MariaDbCatalog catalog;
    private final MariaDbCounters counters = new MariaDbCounters(this);
    private String patience = "DO 0";

    @Override
    public String product() {
        return "MariaDB";
    }

    @Override
    public Place place(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery("SELECT DATABASE(), @@hostname, @@port")) {
            row.next();
            String database = String.valueOf(row.getString(1));
            return new Place(
                    product(),
                    row.getString(2) + ":" + row.getString(3),
                    database,
                    birth(connection, database),
                    JdbcUrl.shown(connection.getMetaData().getURL()),
                    false);
        }
    }

    @Override
    public Schema readSchema(Connection connection) throws SQLException {
        MariaDbCatalog known = MariaDbCatalog.of(connection);
        catalog = known;
        return known.get(
                "schema", Schema.class, c -> SchemaDraft.steadily(() -> new MariaDbSchemaReader(c).read()), connection);
    }

    @Override
    public Journal journal(Schema schema) {
        return new MariaDbJournal(this, schema, false);
    }

    @Override
    public Optional<Journal> journalTogether(Schema schema) {
        return Optional.of(new MariaDbJournal(this, schema, true));
    }

    /** A statement of ours has altered a table, and nothing that is known of it. */
    void altered() {
        MariaDbCatalog known = catalog;
        if (known != null) {
            known.altered(1);
        }
    }

    MariaDbCounters counters() {
        return counters;
    }

    @Override
    public String quote(String name) {
        return '`' + name.replace("`", "``") + '`';
    }

    /** From MariaDB 11 on they are shown to those only who may make some. */
    @Override
    public boolean showsTriggers() {
        return false;
    }

    @Override
    public String overriding(Table table) {
        return "";
    }

    @Override
    public String allDefaults() {
        return " () VALUES ()";
    }

    /** Case counts only in binary comparison. */
    @Override
    public String like(String column, boolean ignoreCase) {
        return ignoreCase ? "LOWER(" + column + ") LIKE LOWER(?)" : column + " LIKE BINARY ?";
    }

    @Override
    public String typed(Column column) {
        return placeholder(column); // values have types of their own here
    }

    @Override
    public String same(Column column) {
        return quote(column.sqlName()) + " <=> " + placeholder(column);
    }

    /** A float is compared with a float: as a double it would differ from the nearest double of the same text. */
    @Override
    public String placeholder(Column column) {
        return column.type().sqlName().startsWith("float") ? "CAST(? AS FLOAT)" : "?";
    }

    @Override
    public void bind(PreparedStatement statement, int index, Column column, @Nullable Object value)
            throws SQLException {
        if (value == null) {
            statement.setNull(index, Types.NULL);
        } else if (value instanceof UUID || value instanceof BigInteger) {
            statement.setString(index, value.toString());
        } else if (value instanceof byte[] bits && column.type().sqlName().startsWith("bit")) {
            statement.setBigDecimal(index, new BigDecimal(new BigInteger(1, bits))); // bytes would be compared as text
        } else if (column.type().kind() == Kind.OTHER && value instanceof String text) {
            bindOther(statement, index, column, text);
        } else {
            Dialect.super.bind(statement, index, column, value);
        }
    }

    @Override
    public String literal(Object bound) {
        return bound instanceof OffsetDateTime point
                ? Dialect.super.literal(LocalDateTime.ofInstant(point.toInstant(), ZoneOffset.UTC))
                : bound instanceof String text && text.indexOf('\\') >= 0
                        ? encoded(text) // a client may take it for an escape, whatever the server has been told
                        : Dialect.super.literal(bound);
    }

    @Override
    public String encoded(String text) {
        return "CONVERT(X'" + HexFormat.of().formatHex(text.getBytes(StandardCharsets.UTF_8)) + "' USING utf8mb4)";
    }

    @Override
    public String leftOutOfScripts(Connection connection) throws SQLException {
        return quote(String.valueOf(connection.getCatalog())) + ".";
    }

    @Override
    public List<String> scriptSettings() {
        return List.of(
                "SET NAMES utf8mb4",
                "SET time_zone = '+00:00'",
                "SET sql_mode = CONCAT(@@sql_mode, ',NO_BACKSLASH_ESCAPES,NO_AUTO_VALUE_ON_ZERO')");
    }

    private static void bindOther(PreparedStatement statement, int index, Column column, String text)
            throws SQLException {
        String type = column.type().sqlName();
        if (type.startsWith("bit") && text.chars().allMatch(c -> c == '0' || c == '1')) {
            byte[] bits = new BigInteger(text.isEmpty() ? "0" : text, 2).toByteArray();
            statement.setBytes(
                    index, bits[0] == 0 && bits.length > 1 ? Arrays.copyOfRange(bits, 1, bits.length) : bits);
        } else if (MariaDbGeometry.isShape(type)) {
            statement.setBytes(index, MariaDbGeometry.of(type, text));
        } else {
            statement.setString(index, text);
        }
    }

    @Override
    public boolean readsAsLong(Column column) {
        return Dialect.super.readsAsLong(column) && fitsLong(column.type().sqlName());
    }

    @Override
    public @Nullable Object read(ResultSet rows, int index, Column column) throws SQLException {
        switch (column.type().kind()) {
            case INTEGER:
                if (fitsLong(column.type().sqlName())) {
                    return Dialect.super.read(rows, index, column);
                }
                String number = rows.getString(index);
                if (number == null) {
                    return null;
                }
                if (column.type().sqlName().startsWith("year")) {
                    return Long.valueOf(number.substring(0, 4));
                }
                BigInteger whole = new BigInteger(number);
                return whole.bitLength() < 64 ? (Object) whole.longValue() : whole;
            case FLOAT:
                // The shortest text of a float, however it comes: as a double it would show digits that it does not
                // have.
                String real = rows.getString(index);
                return real == null ? null : (Object) Double.valueOf(real);
            case UUID:
                String uuid = rows.getString(index);
                return uuid == null ? null : UUID.fromString(uuid);
            case TIME:
                String time = rows.getString(index);
                try {
                    return time == null ? null : LocalTime.parse(time);
                } catch (DateTimeException e) {
                    return time; // a duration: MariaDB's TIME goes from -838 to 838 hours
                }
            case DATE, TIMESTAMP:
                return point(rows, index, column);
            case OTHER:
                return column.type().sqlName().startsWith("bit") || isBinary(column)
                        ? rows.getBytes(index)
                        : rows.getString(index);
            default:
                return Dialect.super.read(rows, index, column);
        }
    }

    /** Outside strict modes there are days that no calendar has, 0000-00-00 and 2026-02-00: they stay text. */
    private @Nullable Object point(ResultSet rows, int index, Column column) throws SQLException {
        try {
            Object point = Dialect.super.read(rows, index, column);
            return point == null ? rows.getString(index) : point;
        } catch (SQLDataException e) {
            return rows.getString(index);
        }
    }

    private static boolean fitsLong(String type) {
        return !type.startsWith("year") && !(type.startsWith("bigint") && type.endsWith("unsigned"));
    }

    private static boolean isBinary(Column column) {
        return List.of("geometry", "point", "linestring", "polygon", "multipoint", "multilinestring", "multipolygon")
                .contains(column.type().sqlName());
    }

    @Override
    public Sequences sequences() {
        return sequences;
    }

    @Override
    public String scriptCounter(Table table, Column numbered, long next) {
        return numbered.sequence()
                .map(sequence -> "SELECT SETVAL(" + sequence + ", " + next + ", 0)")
                .orElse(""); // AUTO_INCREMENT moves by itself
    }

    @Override
    public long reserve(Connection connection, Table table, Column numbered, int count) throws SQLException {
        long least = new TableSql(this, table).max(connection, numbered) + 1;
        if (numbered.sequence().isPresent()) {
            return sequences.reserve(connection, numbered.sequence().get(), least, count);
        }
        Long belongs = counters.belongs(table);
        return Math.max(
                belongs != null
                        ? belongs
                        : countersNow(connection, List.of(table)).getOrDefault(table, 1L),
                least);
    }

    /** In one query; sequences are taken from by themselves. */
    @Override
    public Map<Table, Long> reserve(Connection connection, Map<Table, Integer> counts) throws SQLException {
        List<Table> tables = counts.keySet().stream()
                .filter(table ->
                        table.numberedColumn().flatMap(Column::sequence).isEmpty())
                .toList();
        Map<Table, Long> first = new HashMap<>();
        if (tables.isEmpty()) {
            return first;
        }
        StringBuilder sql = new StringBuilder("SELECT ");
        for (Table table : tables) {
            String column = quote(table.numberedColumn().orElseThrow().sqlName());
            sql.append(first.isEmpty() ? "" : ", ")
                    .append("(SELECT MAX(" + column + ") FROM " + name(table) + "), ")
                    .append(
                            counters.belongs(table) != null
                                    ? String.valueOf(counters.belongs(table))
                                    : "(SELECT AUTO_INCREMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA = "
                                            + literal(table.sqlSchema()) + " AND TABLE_NAME = "
                                            + literal(table.sqlName()) + ")");
            first.put(table, 1L);
        }
        Connection direct = OneTransaction.direct(connection);
        SchemaDraft.each(direct, sql.toString(), row -> {
            for (int i = 0; i < tables.size(); i++) {
                first.put(tables.get(i), Math.max(row.getLong(2 * i + 1) + 1, Math.max(1, row.getLong(2 * i + 2))));
            }
        });
        return first;
    }

    @Override
    public boolean sharesReserved(Column numbered) {
        return numbered.sequence().isEmpty(); // ALTER TABLE would move AUTO_INCREMENT, and commit
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables) throws SQLException {
        return counters.next(connection, tables, null);
    }

    @Override
    public Map<Table, Long> counters(Connection connection, List<Table> tables, @Nullable String told)
            throws SQLException {
        return counters.next(connection, tables, told);
    }

    @Override
    public boolean leavesCounter(Table table, long next) {
        return counters.leave(table, next);
    }

    @Override
    public Map<Table, Long> takeCountersLeft() {
        return counters.takeLeft();
    }

    @Override
    public void stored(Load load) {
        counters.stored(load);
    }

    @Override
    public void rewound() {
        counters.rewound();
    }

    /** Returns where counters stand in the database. */
    Map<Table, Long> countersNow(Connection connection, List<Table> tables) throws SQLException {
        Map<String, Long> next = new HashMap<>();
        String one = tables.size() == 1
                ? " AND TABLE_NAME = '" + tables.get(0).sqlName().replace("'", "''") + "'"
                : "";
        for (String database : tables.stream().map(Table::sqlSchema).collect(Collectors.toSet())) {
            SchemaDraft.each(
                    connection,
                    MariaDbDatabases.in(
                            database,
                            "SELECT TABLE_NAME, AUTO_INCREMENT FROM information_schema.TABLES WHERE TABLE_SCHEMA ="
                                    + " DATABASE() AND AUTO_INCREMENT IS NOT NULL" + one),
                    rows -> next.put(database + SchemaDraft.BETWEEN + rows.getString(1), rows.getLong(2)));
        }
        Map<Table, Long> counters = new HashMap<>();
        for (Table table : tables) {
            String sequence = table.numberedColumn().flatMap(Column::sequence).orElse(null);
            Long number = sequence != null
                    ? (Long) sequences.unused(connection, sequence)
                    : next.get(table.sqlSchema() + SchemaDraft.BETWEEN + table.sqlName());
            if (number != null && table.numberedColumn().isPresent()) {
                counters.put(table, number);
            }
        }
        return counters;
    }

    @Override
    public void setCounter(Connection connection, Table table, Column numbered, long next) throws SQLException {
        if (numbered.sequence().isPresent()) {
            sequences.restart(connection, numbered.sequence().get(), next);
            return;
        }
        counters.alter(connection, table, next);
    }

    @Override
    public boolean withoutReferences(Connection connection, SqlWork work) throws SQLException {
        return unchecked(connection, "NULL", work);
    }

    @Override
    public boolean unnoticed(Connection connection, SqlWork work) throws SQLException {
        return unchecked(connection, "1", work);
    }

    private static boolean unchecked(Connection connection, String quiet, SqlWork work) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(UNCHECKED.replace("{quiet}", quiet));
            connection.setAutoCommit(false);
            try {
                work.run();
                connection.commit();
                return true;
            } catch (SQLException | RuntimeException e) {
                connection.rollback();
                throw e;
            } finally {
                connection.setAutoCommit(true);
                statement.execute(CHECKED);
            }
        }
    }

    /** The driver asks the server twice more to switch what it does by itself. */
    @Override
    public void begin(Connection connection) throws SQLException {
        if (OneTransaction.has(connection)) {
            Dialect.super.begin(connection);
        } else {
            execute(connection, "START TRANSACTION");
        }
    }

    @Override
    public void commit(Connection connection) throws SQLException {
        if (OneTransaction.has(connection)) {
            Dialect.super.commit(connection);
        } else {
            execute(connection, "COMMIT");
        }
    }

    @Override
    public void rollBack(Connection connection) throws SQLException {
        if (OneTransaction.has(connection)) {
            Dialect.super.rollBack(connection);
        } else {
            execute(connection, "ROLLBACK");
        }
    }

    private static void execute(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    @Override
    public String howToAllowTriggers() {
        return "GRANT ALL ON the database, and SET USER where triggers belong to other users";
    }

    @Override
    public Optional<String> constraint(SQLException refusal) {
        Matcher constraint = CONSTRAINT.matcher(String.valueOf(refusal.getMessage()));
        if (!constraint.find()) {
            return Optional.empty();
        }
        for (int group = 1; group <= constraint.groupCount(); group++) {
            if (constraint.group(group) != null) {
                return Optional.of(constraint.group(group));
            }
        }
        return Optional.empty();
    }

    @Override
    public boolean storeFast(Connection connection, Schema schema, RowSource rows) throws SQLException {
        return MariaDbLoadData.store(this, connection, schema, rows);
    }

    /** The driver sends a batch as one, and counts the rows of a refused one wrongly. */
    @Override
    public boolean tellsRefusedRow() {
        return false;
    }

    @Override
    public void dropAll(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET foreign_key_checks = 0");
            Dialect.runAll(
                    connection,
                    "SELECT CONCAT('DROP ', CASE TABLE_TYPE WHEN 'VIEW' THEN 'VIEW' WHEN 'SEQUENCE' THEN 'SEQUENCE' ELSE"
                            + " 'TABLE' END, ' `', REPLACE(TABLE_NAME, '`', '``'), '`') FROM information_schema.TABLES"
                            + " WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME NOT LIKE 'zabbet\\_%'");
            Dialect.runAll(
                    connection,
                    "SELECT CONCAT('DROP ', ROUTINE_TYPE, ' `', REPLACE(ROUTINE_NAME, '`', '``'), '`') FROM"
                            + " information_schema.ROUTINES WHERE ROUTINE_SCHEMA = DATABASE()"
                            + " AND ROUTINE_NAME NOT LIKE 'zabbet\\_%'");
            statement.execute("SET foreign_key_checks = 1");
        }
    }

    static boolean isText(Column column) {
        Kind kind = column.type().kind();
        return kind == Kind.TEXT || kind == Kind.FIXED_TEXT || kind == Kind.ENUM || kind == Kind.JSON;
    }

    @Override
    public boolean isMissingRight(SQLException refusal) {
        return refusal.getErrorCode() == 1142
                || refusal.getErrorCode() == 1044
                || refusal.getErrorCode() == 1227
                || refusal.getErrorCode() == 1419;
    }

    /** Changes of tables wait a day for whoever has read them in an open transaction, if nothing is said. */
    @Override
    public void prepare(Connection connection) throws SQLException {
        SchemaDraft.each(
                connection,
                "SELECT CONCAT('SET lock_wait_timeout = ', @@lock_wait_timeout, ', innodb_lock_wait_timeout = ',"
                        + " @@innodb_lock_wait_timeout)",
                rows -> patience = rows.getString(1));
        try (Statement statement = connection.createStatement()) {
            statement.execute("SET lock_wait_timeout = 5, innodb_lock_wait_timeout = 5");
        }
    }

    @Override
    public void setBack(Connection connection) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(patience);
        }
    }

    @Override
    public boolean readsSnapshots() {
        return true;
    }

    @Override
    public boolean isTwin(SQLException refusal) {
        return refusal.getErrorCode() == 1062;
    }

    @Override
    public boolean isLocked(SQLException refusal) {
        return refusal.getErrorCode() == 1205;
    }

    /** Places of other databases are those that tables are in to which a reference leads. */
    @Override
    public List<Place> places(Connection connection, Place home, Schema schema) throws SQLException {
        List<Place> places = new ArrayList<>();
        MariaDbDatabases databases = MariaDbDatabases.of(connection, schema);
        for (String name : databases.names()) {
            places.add(places.isEmpty() ? home : beside(connection, home, name));
        }
        for (String name : writtenByTriggers(connection, databases)) {
            places.add(beside(connection, home, name));
        }
        return places;
    }

    private static Place beside(Connection connection, Place home, String name) throws SQLException {
        return home.beside(name, birth(connection, name));
    }

    /**
     * A dump that is restored makes its tables anew, the one with the mark among them: what the mark is bound to is the moment
     * at which that was made, beside the server.
     */
    private static String birth(Connection connection, String database) throws SQLException {
        List<String> birth = SchemaDraft.texts(
                connection,
                MariaDbDatabases.in(
                        database,
                        "SELECT CONCAT(@@datadir, '@', COALESCE((SELECT VARIABLE_VALUE FROM"
                                + " information_schema.GLOBAL_VARIABLES WHERE VARIABLE_NAME = 'SERVER_UID'), ''), '@',"
                                + " COALESCE((SELECT UNIX_TIMESTAMP(CREATE_TIME) FROM information_schema.TABLES WHERE"
                                + " TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'zabbet_dedicated'), 0))"));
        return birth.get(0);
    }

    /** Returns other databases of the server that a trigger on one of the tables names, as far as the user may see triggers. */
    private static List<String> writtenByTriggers(Connection connection, MariaDbDatabases databases)
            throws SQLException {
        List<String> bodies = MariaDbCatalog.of(connection).triggers(connection, databases).stream()
                .filter(trigger -> !trigger.isOurs())
                .map(trigger -> trigger.body().toLowerCase(Locale.ROOT))
                .toList();
        if (bodies.isEmpty()) {
            return List.of();
        }
        List<String> others = SchemaDraft.texts(
                connection,
                "SELECT SCHEMA_NAME FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ('mysql', 'sys',"
                        + " 'information_schema', 'performance_schema')");
        others.removeAll(databases.names());
        return others.stream()
                .filter(name -> {
                    Pattern qualified = Pattern.compile(
                            "(?<![\\w`.$@])`?" + Pattern.quote(name.toLowerCase(Locale.ROOT)) + "`?\\s*\\.\\s*[\\w`]");
                    return bodies.stream()
                            .anyMatch(body -> qualified.matcher(body).find());
                })
                .toList();
    }

    @Override
    public boolean isIn(Table table, Place place) {
        return table.sqlSchema().equals(place.database());
    }

    @Override
    public List<String> removing(Connection connection) throws SQLException {
        return SchemaDraft.texts(
                connection,
                "SELECT CONCAT('DROP TABLE `', TABLE_NAME, '`') FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
                        + " AND TABLE_TYPE = 'BASE TABLE' AND TABLE_NAME LIKE 'zabbet\\_%'");
    }

    @Override
    public String markTable(Place place) {
        return quote(place.database()) + "." + markTable();
    }

    @Override
    public boolean lock(Connection connection, Place place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT GET_LOCK(?, 0)")) {
            statement.setString(1, lockName(place));
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                return row.getInt(1) == 1;
            }
        }
    }

    @Override
    public void unlock(Connection connection, Place place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT RELEASE_LOCK(?)")) {
            statement.setString(1, lockName(place));
            statement.execute();
        }
    }

    @Override
    public String holder(Connection connection, Place place) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement("SELECT IS_USED_LOCK(?)")) {
            statement.setString(1, lockName(place));
            try (ResultSet row = statement.executeQuery()) {
                row.next();
                return "server connection " + row.getString(1);
            }
        }
    }

    private static String lockName(Place place) {
        String name = "zabbet." + place.database();
        return name.length() <= 64 ? name : name.substring(0, 55) + Integer.toHexString(name.hashCode());
    }

    @Override
    public Optional<String> readOnly(Connection connection) throws SQLException {
        boolean[] readOnly = {false};
        SchemaDraft.each(connection, "SELECT @@read_only OR @@tx_read_only", rows -> readOnly[0] = rows.getBoolean(1));
        return readOnly[0] ? Optional.of("its server or session is read-only, as a replica is") : Optional.empty();
    }
}
