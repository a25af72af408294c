package dev.zabbet.jdbc.internal.h2;

import dev.zabbet.jdbc.internal.dialect.Naming;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft.TableDraft;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Reads the tables of an H2 database from its catalog, one query for each kind of thing. */
final class H2SchemaReader {
    private static final Pattern NEXT_VALUE =
            Pattern.compile("NEXT VALUE FOR (\"(?:[^\"]|\"\")*\"\\.\"(?:[^\"]|\"\")*\")");

    private final Connection connection;
    private final SchemaDraft draft = new SchemaDraft(true);
    private final Map<String, List<String>> labels = new HashMap<>();
    private final Map<String, ElementType> elements = new HashMap<>();

    private final Map<String, Domain> domains = new LinkedHashMap<>();
    private final List<OfDomain> ofDomains = new ArrayList<>();

    /** A domain, and the one that it narrows. */
    private record Domain(
            @Nullable String defaultText, @Nullable String parent, List<String> checks) {}

    private record OfDomain(String table, String column, String domain) {}

    private record ElementType(String name, int length, int precision, int scale) {}

    H2SchemaReader(Connection connection) {
        this.connection = connection;
    }

    Schema read() throws SQLException {
        readTables();
        readLabels();
        readElements();
        readDomains();
        readColumns();
        readConstraints();
        return draft.schema();
    }

    private void readTables() throws SQLException {
        each(
                "SELECT TABLE_SCHEMA, TABLE_NAME, TABLE_SCHEMA = SCHEMA(), STORAGE_TYPE FROM INFORMATION_SCHEMA.TABLES"
                        + " WHERE TABLE_TYPE = 'BASE TABLE' AND TABLE_SCHEMA" + H2Dialect.NOT_ITS_OWN
                        + " ORDER BY TABLE_SCHEMA <> SCHEMA(), TABLE_SCHEMA, TABLE_NAME",
                rows -> {
                    String id = rows.getString(1) + "." + rows.getString(2);
                    draft.add(id, rows.getString(1), rows.getString(2), rows.getBoolean(3));
                    if ("TABLE LINK".equals(rows.getString(4))) {
                        draft.leaveOut(id, id, "it is a linked table, whose rows are in another database");
                    }
                });
    }

    private void readLabels() throws SQLException {
        each(
                "SELECT OBJECT_SCHEMA, OBJECT_NAME, ENUM_IDENTIFIER, VALUE_NAME FROM INFORMATION_SCHEMA.ENUM_VALUES"
                        + " ORDER BY VALUE_ORDINAL",
                rows -> labels.computeIfAbsent(
                                rows.getString(1) + "." + rows.getString(2) + "." + rows.getString(3),
                                key -> new ArrayList<>())
                        .add(rows.getString(4)));
    }

    private void readElements() throws SQLException {
        each(
                "SELECT OBJECT_SCHEMA, OBJECT_NAME, COLLECTION_TYPE_IDENTIFIER, DATA_TYPE, CHARACTER_MAXIMUM_LENGTH,"
                        + " COALESCE(NUMERIC_PRECISION, DATETIME_PRECISION), NUMERIC_SCALE"
                        + " FROM INFORMATION_SCHEMA.ELEMENT_TYPES",
                rows -> elements.put(
                        rows.getString(1) + "." + rows.getString(2) + "." + rows.getString(3),
                        new ElementType(rows.getString(4), limit(rows, 5), limit(rows, 6), rows.getInt(7))));
    }

    private void readDomains() throws SQLException {
        each(
                "SELECT DOMAIN_SCHEMA, DOMAIN_NAME, DOMAIN_DEFAULT, PARENT_DOMAIN_SCHEMA, PARENT_DOMAIN_NAME"
                        + " FROM INFORMATION_SCHEMA.DOMAINS",
                rows -> domains.put(
                        rows.getString(1) + "." + rows.getString(2),
                        new Domain(
                                rows.getString(3),
                                rows.getString(5) == null ? null : rows.getString(4) + "." + rows.getString(5),
                                new ArrayList<>())));
        if (!domains.isEmpty()) {
            each(
                    "SELECT DOMAIN_SCHEMA, DOMAIN_NAME, CONSTRAINT_SCHEMA, CONSTRAINT_NAME FROM"
                            + " INFORMATION_SCHEMA.DOMAIN_CONSTRAINTS ORDER BY CONSTRAINT_NAME",
                    rows -> Objects.requireNonNull(domains.get(rows.getString(1) + "." + rows.getString(2)))
                            .checks()
                            .add(rows.getString(3) + "." + rows.getString(4)));
        }
    }

    private @Nullable String defaultOf(@Nullable String domain) {
        Domain of = domain == null ? null : domains.get(domain);
        if (of == null || of.defaultText() != null) {
            if (of == null) {
                return null;
            }
            return of.defaultText();
        }
        return defaultOf(of.parent());
    }

    private void addDomainChecks(Map<String, String> clauses) {
        for (OfDomain of : ofDomains) {
            TableDraft table = draft.require(of.table());
            Domain domain = domains.get(of.domain());
            while (domain != null) {
                for (String check : domain.checks()) {
                    String clause = clauses.get(check);
                    if (clause != null) {
                        String name = check.substring(check.indexOf('.') + 1);
                        table.checks.add(SchemaDraft.onColumn(new Check(shown(name), clause), of.column()));
                    }
                }
                domain = domain.parent() == null ? null : domains.get(domain.parent());
            }
        }
    }

    private void readColumns() throws SQLException {
        each(
                "SELECT TABLE_SCHEMA, TABLE_NAME, COLUMN_NAME, DATA_TYPE, CHARACTER_MAXIMUM_LENGTH,"
                        + " COALESCE(NUMERIC_PRECISION, DATETIME_PRECISION), NUMERIC_SCALE, IS_NULLABLE, COALESCE(COLUMN_DEFAULT, GENERATION_EXPRESSION),"
                        + " IDENTITY_GENERATION, IS_GENERATED, DTD_IDENTIFIER, INTERVAL_TYPE, DOMAIN_SCHEMA, DOMAIN_NAME FROM INFORMATION_SCHEMA.COLUMNS"
                        + " WHERE TABLE_SCHEMA" + H2Dialect.NOT_ITS_OWN + " ORDER BY ORDINAL_POSITION",
                rows -> {
                    if (!draft.has(rows.getString(1) + "." + rows.getString(2))) {
                        return;
                    }
                    String exact = rows.getString(3);
                    String place = rows.getString(1) + "." + rows.getString(2) + "." + rows.getString(12);
                    String named = rows.getString(13) == null ? rows.getString(4) : "INTERVAL " + rows.getString(13);
                    DataType type = type(named, limit(rows, 5), limit(rows, 6), rows.getInt(7), place);
                    String identity = rows.getString(10);
                    boolean computed = "ALWAYS".equals(rows.getString(11));
                    String domain = rows.getString(15) == null ? null : rows.getString(14) + "." + rows.getString(15);
                    if (domain != null) {
                        ofDomains.add(new OfDomain(rows.getString(1) + "." + rows.getString(2), exact, domain));
                    }
                    String defaultText = rows.getString(9) == null ? defaultOf(domain) : rows.getString(9);
                    Matcher next = NEXT_VALUE.matcher(defaultText == null || computed ? "" : defaultText);
                    String sequence = identity == null && next.matches() ? next.group(1) : null;
                    Generation generation;
                    if (computed) {
                        generation = Generation.COMPUTED;
                    } else if (sequence != null) {
                        generation = Generation.SEQUENCE;
                    } else if (identity == null) {
                        generation = Generation.NONE;
                    } else if (identity.equals("ALWAYS")) {
                        generation = Generation.IDENTITY_ALWAYS;
                    } else {
                        generation = Generation.IDENTITY;
                    }
                    draft.require(rows.getString(1) + "." + rows.getString(2))
                            .column(
                                    exact,
                                    type,
                                    "YES".equals(rows.getString(8)),
                                    sequence == null ? defaultText : null,
                                    generation,
                                    sequence);
                });
    }

    /** Names of types are in lower case where all names are. */
    private DataType type(String named, int length, int precision, int scale, String place) {
        String sql = named.toUpperCase(Locale.ROOT);
        String sized = length == DataType.UNLIMITED ? sql : sql + "(" + length + ")";
        switch (sql) {
            case "BOOLEAN":
                return DataType.of(Kind.BOOLEAN, sql);
            case "TINYINT":
                return DataType.precise(Kind.INTEGER, sql, 8, 0);
            case "SMALLINT":
                return DataType.precise(Kind.INTEGER, sql, 16, 0);
            case "INTEGER":
                return DataType.precise(Kind.INTEGER, sql, 32, 0);
            case "BIGINT":
                return DataType.precise(Kind.INTEGER, sql, 64, 0);
            case "NUMERIC", "DECIMAL":
                return DataType.precise(Kind.DECIMAL, sql + "(" + precision + ", " + scale + ")", precision, scale);
            case "DECFLOAT", "REAL", "DOUBLE PRECISION", "FLOAT":
                return DataType.of(Kind.FLOAT, sql);
            case "CHARACTER":
                return DataType.sized(Kind.FIXED_TEXT, sized, length);
            case "CHARACTER VARYING", "VARCHAR_IGNORECASE":
                return DataType.sized(Kind.TEXT, sized, length);
            case "CHARACTER LARGE OBJECT":
                return DataType.of(Kind.TEXT, sql);
            case "BINARY", "BINARY VARYING":
                return DataType.sized(Kind.BYTES, sized, length);
            case "BINARY LARGE OBJECT":
                return DataType.of(Kind.BYTES, sql);
            case "DATE":
                return DataType.of(Kind.DATE, sql);
            case "TIME":
                return DataType.precise(Kind.TIME, sql, precision, 0);
            case "TIMESTAMP":
                return DataType.precise(Kind.TIMESTAMP, sql, precision, 0);
            case "TIMESTAMP WITH TIME ZONE":
                return DataType.precise(Kind.INSTANT, sql, precision, 0);
            case "UUID":
                return DataType.of(Kind.UUID, sql);
            case "JSON":
                return DataType.of(Kind.JSON, sql);
            case "ENUM":
                return DataType.labelled(sql, labels.getOrDefault(place, List.of()));
            case "ARRAY":
                ElementType element = elements.get(place);
                return element == null
                        ? DataType.of(Kind.OTHER, sql)
                        : DataType.arrayOf(
                                type(element.name(), element.length(), element.precision(), element.scale(), place),
                                element.name() + " ARRAY");
            default:
                return DataType.of(Kind.OTHER, sql);
        }
    }

    private void readConstraints() throws SQLException {
        Map<String, List<String[]>> keyColumns = new LinkedHashMap<>();
        each(
                "SELECT CONSTRAINT_SCHEMA, CONSTRAINT_NAME, COLUMN_NAME, TABLE_SCHEMA, TABLE_NAME"
                        + " FROM INFORMATION_SCHEMA.KEY_COLUMN_USAGE ORDER BY ORDINAL_POSITION",
                rows -> keyColumns
                        .computeIfAbsent(rows.getString(1) + "." + rows.getString(2), key -> new ArrayList<>())
                        .add(new String[] {rows.getString(3), rows.getString(4) + "." + rows.getString(5)}));
        // H2 has no indexes on its catalog: two queries put together here are faster than a join there.
        Map<String, String> clauses = new HashMap<>();
        each(
                "SELECT CONSTRAINT_SCHEMA, CONSTRAINT_NAME, CHECK_CLAUSE FROM INFORMATION_SCHEMA.CHECK_CONSTRAINTS",
                rows -> clauses.put(rows.getString(1) + "." + rows.getString(2), rows.getString(3)));
        readKeys(keyColumns, clauses);
        addDomainChecks(clauses);
        readReferences(keyColumns);
        each(
                "SELECT EVENT_OBJECT_SCHEMA, EVENT_OBJECT_TABLE, TRIGGER_NAME FROM INFORMATION_SCHEMA.TRIGGERS"
                        + " WHERE TRIGGER_NAME NOT LIKE 'ZABBET_%' ORDER BY TRIGGER_NAME",
                rows -> {
                    Optional<TableDraft> table = draft.find(rows.getString(1) + "." + rows.getString(2));
                    if (table.isPresent()) {
                        table.get().triggers.add(shown(rows.getString(3)));
                    }
                });
    }

    private void readKeys(Map<String, List<String[]>> keyColumns, Map<String, String> clauses) throws SQLException {
        boolean isTold = connection.getMetaData().getDatabaseMajorVersion() > 2
                || connection.getMetaData().getDatabaseMinorVersion() >= 2;
        String nullsDistinct = isTold ? "NULLS_DISTINCT" : "'YES'";
        each(
                "SELECT TABLE_SCHEMA, TABLE_NAME, CONSTRAINT_SCHEMA, CONSTRAINT_NAME, CONSTRAINT_TYPE, "
                        + nullsDistinct
                        + " FROM INFORMATION_SCHEMA.TABLE_CONSTRAINTS WHERE CONSTRAINT_TYPE <> 'FOREIGN KEY'"
                        + " ORDER BY CONSTRAINT_NAME",
                rows -> {
                    if (!draft.has(rows.getString(1) + "." + rows.getString(2))) {
                        return;
                    }
                    TableDraft table = draft.require(rows.getString(1) + "." + rows.getString(2));
                    if (rows.getString(5).equals("CHECK")) {
                        String clause = clauses.get(rows.getString(3) + "." + rows.getString(4));
                        if (clause != null) {
                            table.checks.add(new Check(shown(rows.getString(4)), clause));
                        }
                        return;
                    }
                    List<String> columns =
                            keyColumns.getOrDefault(rows.getString(3) + "." + rows.getString(4), List.of()).stream()
                                    .map(c -> table.shown(c[0]))
                                    .toList();
                    UniqueKey key = new UniqueKey(
                            shown(rows.getString(4)), columns, List.of(), Optional.empty(), isYes(rows.getString(6)));
                    if (rows.getString(5).equals("UNIQUE")) {
                        table.uniques.add(key);
                    } else {
                        table.primaryKey = Optional.of(key);
                    }
                });
        Set<String> alike = new HashSet<>();
        Map<String, List<String>> indexed = new LinkedHashMap<>();
        each(
                "SELECT TABLE_SCHEMA, TABLE_NAME, INDEX_NAME, " + nullsDistinct + " FROM INFORMATION_SCHEMA.INDEXES"
                        + " WHERE INDEX_TYPE_NAME = 'UNIQUE INDEX' AND NOT IS_GENERATED ORDER BY INDEX_NAME",
                rows -> {
                    String place =
                            rows.getString(1) + "." + rows.getString(2) + SchemaDraft.BETWEEN + rows.getString(3);
                    indexed.put(place, new ArrayList<>());
                    if (!isYes(rows.getString(4))) {
                        alike.add(place);
                    }
                });
        if (!indexed.isEmpty()) {
            each(
                    "SELECT TABLE_SCHEMA, TABLE_NAME, INDEX_NAME, COLUMN_NAME FROM INFORMATION_SCHEMA.INDEX_COLUMNS"
                            + " ORDER BY ORDINAL_POSITION",
                    rows -> indexed.getOrDefault(
                                    rows.getString(1) + "." + rows.getString(2) + SchemaDraft.BETWEEN
                                            + rows.getString(3),
                                    new ArrayList<>())
                            .add(rows.getString(4)));
        }
        indexed.forEach((place, columns) -> {
            String[] parts = place.split(SchemaDraft.BETWEEN);
            draft.find(parts[0])
                    .ifPresent(table -> table.unique(new UniqueKey(
                            shown(parts[1]),
                            table.shown(columns),
                            List.of(),
                            Optional.empty(),
                            !alike.contains(place))));
        });
    }

    /** NO and ALL (DISTINCT only if all are null) are not the plain thing; a primary key says nothing. */
    private static boolean isYes(@Nullable String nullsDistinct) {
        return nullsDistinct == null || nullsDistinct.equals("YES");
    }

    private void readReferences(Map<String, List<String[]>> keyColumns) throws SQLException {
        each(
                "SELECT CONSTRAINT_SCHEMA, CONSTRAINT_NAME, UNIQUE_CONSTRAINT_SCHEMA, UNIQUE_CONSTRAINT_NAME,"
                        + " UPDATE_RULE, DELETE_RULE FROM INFORMATION_SCHEMA.REFERENTIAL_CONSTRAINTS"
                        + " ORDER BY CONSTRAINT_NAME",
                rows -> {
                    List<String[]> from =
                            keyColumns.getOrDefault(rows.getString(1) + "." + rows.getString(2), List.of());
                    List<String[]> to = keyColumns.getOrDefault(rows.getString(3) + "." + rows.getString(4), List.of());
                    if (from.isEmpty() || to.isEmpty() || !draft.has(from.get(0)[1]) || !draft.has(to.get(0)[1])) {
                        return;
                    }
                    TableDraft own = draft.require(from.get(0)[1]);
                    TableDraft target = draft.require(to.get(0)[1]);
                    own.references.add(new Reference(
                            shown(rows.getString(2)),
                            from.stream().map(c -> own.shown(c[0])).toList(),
                            target.name,
                            to.stream().map(c -> target.shown(c[0])).toList(),
                            SchemaDraft.action(rows.getString(6)),
                            SchemaDraft.action(rows.getString(5)),
                            Reference.Match.SIMPLE,
                            Reference.Deferral.NEVER));
                });
    }

    private static String shown(String exact) {
        return new Naming(true).shown(exact);
    }

    private static int limit(ResultSet rows, int index) throws SQLException {
        long limit = rows.getLong(index);
        return rows.wasNull() || limit >= 1_000_000_000L ? DataType.UNLIMITED : (int) limit;
    }

    private void each(String sql, SchemaDraft.RowReader reader) throws SQLException {
        SchemaDraft.each(connection, sql, reader);
    }
}
