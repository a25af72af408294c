package dev.zabbet.jdbc.internal.postgres;

import dev.zabbet.jdbc.internal.dialect.IndexParts;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft;
import dev.zabbet.jdbc.internal.dialect.SchemaDraft.TableDraft;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.TableNature.Form;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.sql.Array;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Reads the tables of a PostgreSQL database from pg_catalog, one query for each kind of thing. */
final class PostgresSchemaReader {
    /**
     * The condition on the rows of the part {@code c}, with the names of tables where the server has their numbers: those
     * are others in each database, and the same tables are to have the same rows everywhere.
     */
    private static final String PART_CONDITION = "(SELECT string_agg(CASE WHEN piece[2] IS NULL THEN piece[1]"
            + " ELSE quote_literal(piece[2]::oid::regclass) || '::regclass' END, '')"
            + " FROM regexp_matches(pg_get_partition_constraintdef(c.oid),"
            + " '((?:(?!''[0-9]+''::oid).)+|''([0-9]+)''::oid)', 'g') AS piece)";

    /** User tables: in no schema of the database's own or of ours, and not of an extension. */
    private static final String USER_TABLES =
            "n.nspname NOT LIKE 'pg\\_%' AND n.nspname NOT IN ('information_schema', 'zabbet')";

    private final Connection connection;
    private final SchemaDraft draft = new SchemaDraft(false);
    private final Map<Long, List<String>> labels = new HashMap<>();
    private final Map<Long, DomainType> domains = new HashMap<>();
    private final Map<String, String> sequences = new HashMap<>();

    private record DomainType(long base, int modifier, boolean notNull, String name, List<Check> checks) {}

    PostgresSchemaReader(Connection connection) {
        this.connection = connection;
    }

    Schema read() throws SQLException {
        readTables();
        each(
                "SELECT enumtypid, enumlabel FROM pg_enum ORDER BY enumtypid, enumsortorder",
                rows -> labels.computeIfAbsent(rows.getLong(1), type -> new ArrayList<>())
                        .add(rows.getString(2)));
        readDomains();
        readSequences();
        readColumns();
        readConstraints();
        readIndexes();
        each(
                "SELECT t.tgrelid, t.tgname FROM pg_trigger t WHERE NOT t.tgisinternal"
                        + " AND t.tgname NOT IN ('!zabbet_row', '!zabbet_truncate') ORDER BY t.tgname",
                rows -> {
                    if (draft.has(rows.getString(1))) {
                        draft.require(rows.getString(1)).triggers.add(rows.getString(2));
                    }
                });
        readParts();
        leaveOutWhatLeadsElsewhere();
        return draft.schema();
    }

    /** A foreign table keeps its rows in another database, and so do a whole with such a part and triggers that write there. */
    private void leaveOutWhatLeadsElsewhere() throws SQLException {
        each(
                "SELECT c.oid, CASE WHEN n.nspname = current_schema() THEN '' ELSE n.nspname || '.' END || c.relname, CASE WHEN c.relkind = 'f' THEN 'it is a foreign table, whose"
                        + " rows are in another database' ELSE 'a part of it is a foreign table, whose rows are in another"
                        + " database' END FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind = 'f'"
                        + " AND " + USER_TABLES + " OR EXISTS (SELECT 1 FROM pg_class f CROSS JOIN LATERAL"
                        + " pg_partition_ancestors(f.oid) a CROSS JOIN LATERAL pg_partition_tree(pg_partition_root(f.oid)) t"
                        + " WHERE f.relkind = 'f' AND f.relispartition AND t.relid = c.oid)",
                rows -> draft.leaveOut(rows.getString(1), rows.getString(2), rows.getString(3)));
        each(
                "SELECT t.tgrelid, c.relname, t.tgname, f.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid"
                        + " JOIN pg_proc p ON p.oid = t.tgfoid JOIN (SELECT relname FROM pg_class WHERE relkind = 'f'"
                        + " UNION ALL SELECT 'dblink') f ON p.prosrc ~* ('\\m' || regexp_replace(f.relname, '(\\W)', '\\\\\\1',"
                        + " 'g') || '\\M') WHERE NOT t.tgisinternal AND t.tgname NOT IN ('!zabbet_row', '!zabbet_truncate')",
                rows -> draft.leaveOut(
                        rows.getString(1),
                        rows.getString(2),
                        "its trigger " + rows.getString(3) + " names " + rows.getString(4)
                                + ", whose rows are in another database"));
    }

    private void readTables() throws SQLException {
        Map<String, String> parents = new HashMap<>();
        each(
                "SELECT c.oid, n.nspname, c.relname, n.nspname = current_schema(), c.relkind, c.relispartition,"
                        + " (SELECT min(i.inhparent::bigint) FROM pg_inherits i WHERE i.inhrelid = c.oid)"
                        + " FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p')"
                        + " AND " + USER_TABLES + " AND NOT EXISTS (SELECT 1 FROM pg_depend d"
                        + " WHERE d.classid = 'pg_class'::regclass AND d.objid = c.oid AND d.deptype = 'e')"
                        + " ORDER BY n.nspname <> current_schema(), n.nspname, c.relname",
                rows -> {
                    TableDraft table =
                            draft.add(rows.getString(1), rows.getString(2), rows.getString(3), rows.getBoolean(4));
                    String parent = rows.getString(7);
                    if (parent != null) {
                        parents.put(rows.getString(1), parent);
                    }
                    if (rows.getBoolean(6)) {
                        table.form = Form.PART;
                    } else if (rows.getString(5).equals("p")) {
                        table.form = Form.PARTITIONED;
                    } else if (parent != null) {
                        table.form = Form.HEIR;
                    } else {
                        table.form = Form.TABLE;
                    }
                });
        parents.forEach(
                (child, parent) -> draft.find(parent).ifPresent(table -> draft.require(child).parent = table.name));
    }

    /** What parts take, and so what the whole takes, is a condition on rows like a check. */
    private void readParts() throws SQLException {
        Map<String, List<String>> parts = new HashMap<>();
        Set<String> takeAll = new HashSet<>();
        each(
                "SELECT c.oid, a.relid::oid, " + PART_CONDITION + ", pg_get_expr(c.relpartbound, c.oid),"
                        + " c.relkind FROM pg_class c CROSS JOIN LATERAL pg_partition_ancestors(c.oid) a"
                        + " WHERE c.relispartition AND c.relkind IN ('r', 'p') AND a.relid <> c.oid ORDER BY c.relname",
                rows -> {
                    String condition = rows.getString(3);
                    if (condition == null || rows.getString(4).equals("DEFAULT")) {
                        takeAll.add(rows.getString(2));
                        return;
                    }
                    Check own = new Check("partition", condition);
                    draft.find(rows.getString(1))
                            .filter(part -> !part.checks.contains(own))
                            .ifPresent(part -> part.checks.add(own));
                    if (condition.contains("satisfies_hash_partition")) {
                        takeAll.add(rows.getString(2));
                    } else if (rows.getString(5).equals("r")) {
                        parts.computeIfAbsent(rows.getString(2), whole -> new ArrayList<>())
                                .add(condition);
                    }
                });
        parts.forEach((root, conditions) -> {
            if (!takeAll.contains(root)) {
                draft.find(root)
                        .ifPresent(whole -> whole.checks.add(new Check("partitions", String.join(" OR ", conditions))));
            }
        });
    }

    private void readDomains() throws SQLException {
        each(
                "SELECT t.oid, t.typbasetype, t.typtypmod, t.typnotnull, format_type(t.oid, NULL), c.conname,"
                        + " pg_get_constraintdef(c.oid) FROM pg_type t LEFT JOIN pg_constraint c ON c.contypid = t.oid"
                        + " AND c.contype = 'c' JOIN pg_namespace n ON n.oid = t.typnamespace WHERE t.typtype = 'd'"
                        + " AND n.nspname <> 'information_schema'",
                rows -> {
                    long oid = rows.getLong(1);
                    DomainType domain = domains.get(oid);
                    if (domain == null) {
                        domain = new DomainType(
                                rows.getLong(2),
                                rows.getInt(3),
                                rows.getBoolean(4),
                                rows.getString(5),
                                new ArrayList<>());
                        domains.put(oid, domain);
                    }
                    if (rows.getString(6) != null) {
                        domain.checks().add(new Check(rows.getString(6), condition(rows.getString(7))));
                    }
                });
    }

    /** The sequence behind each numbered column: its own (identity), or the one its default takes numbers from. */
    private void readSequences() throws SQLException {
        each(
                "SELECT dep.refobjid, dep.refobjsubid, quote_ident(n.nspname) || '.' || quote_ident(s.relname)"
                        + " FROM pg_depend dep JOIN pg_class s ON s.oid = dep.objid AND s.relkind = 'S'"
                        + " JOIN pg_namespace n ON n.oid = s.relnamespace"
                        + " WHERE dep.classid = 'pg_class'::regclass AND dep.refclassid = 'pg_class'::regclass"
                        + " AND dep.deptype = 'i'"
                        // from PostgreSQL 17 on a partition takes its numbers from the sequence of the whole
                        + " UNION ALL SELECT part.oid, own.attnum, quote_ident(n.nspname) || '.' || quote_ident(s.relname)"
                        + " FROM pg_class part JOIN pg_depend dep ON dep.refobjid = pg_partition_root(part.oid)"
                        + " AND dep.classid = 'pg_class'::regclass AND dep.refclassid = 'pg_class'::regclass"
                        + " AND dep.deptype = 'i' JOIN pg_class s ON s.oid = dep.objid AND s.relkind = 'S'"
                        + " JOIN pg_namespace n ON n.oid = s.relnamespace"
                        + " JOIN pg_attribute whole ON whole.attrelid = dep.refobjid AND whole.attnum = dep.refobjsubid"
                        + " JOIN pg_attribute own ON own.attrelid = part.oid AND own.attname = whole.attname"
                        + " AND own.attidentity <> '' WHERE part.relispartition"
                        + " UNION ALL SELECT ad.adrelid, ad.adnum, quote_ident(n.nspname) || '.' || quote_ident(s.relname)"
                        + " FROM pg_attrdef ad JOIN pg_depend dep ON dep.classid = 'pg_attrdef'::regclass"
                        + " AND dep.objid = ad.oid AND dep.refclassid = 'pg_class'::regclass"
                        + " JOIN pg_class s ON s.oid = dep.refobjid AND s.relkind = 'S'"
                        + " JOIN pg_namespace n ON n.oid = s.relnamespace",
                rows -> sequences.put(rows.getString(1) + "/" + rows.getInt(2), rows.getString(3)));
    }

    private void readColumns() throws SQLException {
        each(
                "SELECT a.attrelid, a.attnum, a.attname, a.atttypid, a.atttypmod, a.attnotnull, a.attidentity,"
                        + " a.attgenerated, pg_get_expr(d.adbin, d.adrelid), format_type(a.atttypid, a.atttypmod),"
                        + " t.typname, t.typtype, t.typelem, t.typcategory, e.typname, e.typtype"
                        + " FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid AND c.relkind IN ('r', 'p')"
                        + " JOIN pg_namespace n ON n.oid = c.relnamespace AND " + USER_TABLES
                        + " JOIN pg_type t ON t.oid = a.atttypid LEFT JOIN pg_type e ON e.oid = t.typelem"
                        + " LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum"
                        + " WHERE a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attrelid, a.attnum",
                rows -> {
                    if (!draft.has(rows.getString(1))) {
                        return;
                    }
                    TableDraft table = draft.require(rows.getString(1));
                    String name = rows.getString(3);
                    boolean notNull = rows.getBoolean(6);
                    long typeId = rows.getLong(4);
                    int modifier = rows.getInt(5);
                    DataType type = null;
                    DomainType domain = domains.get(typeId);
                    while (domain != null) {
                        notNull |= domain.notNull();
                        domain.checks().forEach(c -> table.checks.add(SchemaDraft.onColumn(c, name)));
                        modifier = domain.modifier() == -1 ? modifier : domain.modifier();
                        typeId = domain.base();
                        domain = domains.get(typeId);
                    }
                    if (typeId != rows.getLong(4)) {
                        type = baseType(typeId, modifier, rows.getString(10));
                    } else {
                        type = type(
                                rows.getString(11),
                                rows.getString(12),
                                typeId,
                                modifier,
                                rows.getString(10),
                                rows.getString(14).equals("A") ? rows.getString(15) : null,
                                rows.getLong(13));
                    }
                    String sequence = sequences.get(rows.getString(1) + "/" + rows.getInt(2));
                    String defaultText = rows.getString(9);
                    Generation generation = generation(rows, sequence, defaultText);
                    table.column(
                            name,
                            type,
                            !notNull,
                            generation == Generation.SEQUENCE ? null : defaultText,
                            generation,
                            sequence);
                    table.numbers.put(rows.getInt(2), name);
                });
    }

    private static Generation generation(ResultSet rows, @Nullable String sequence, @Nullable String defaultText)
            throws SQLException {
        if (!rows.getString(8).isEmpty()) {
            return Generation.COMPUTED;
        }
        return switch (rows.getString(7)) {
            case "a" -> Generation.IDENTITY_ALWAYS;
            case "d" -> Generation.IDENTITY;
            default ->
                sequence != null && defaultText != null && defaultText.startsWith("nextval(")
                        ? Generation.SEQUENCE
                        : Generation.NONE;
        };
    }

    private DataType baseType(long oid, int modifier, String shown) throws SQLException {
        return SchemaDraft.first(
                        connection,
                        "SELECT t.typname, t.typtype, t.typcategory, e.typname, t.typelem FROM pg_type t LEFT JOIN pg_type e"
                                + " ON e.oid = t.typelem WHERE t.oid = " + oid,
                        rows -> type(
                                rows.getString(1),
                                rows.getString(2),
                                oid,
                                modifier,
                                shown,
                                rows.getString(3).equals("A") ? rows.getString(4) : null,
                                rows.getLong(5)))
                .orElse(DataType.of(Kind.OTHER, shown));
    }

    private DataType type(
            String name,
            String category,
            long oid,
            int modifier,
            String shown,
            @Nullable String element,
            long elementOid) {
        if (category.equals("e")) {
            return DataType.labelled(shown, labels.getOrDefault(oid, List.of()));
        }
        if (element != null) {
            String shownElement = shown.endsWith("[]") ? shown.substring(0, shown.length() - 2) : element;
            List<String> names = labels.get(elementOid);
            return DataType.arrayOf(
                    names != null
                            ? DataType.labelled(shownElement, names)
                            : type(element, "b", elementOid, modifier, shownElement, null, 0),
                    shown);
        }
        int length = modifier < 4 ? DataType.UNLIMITED : modifier - 4;
        int fraction = modifier < 0 ? 6 : modifier;
        return switch (name) {
            case "bool" -> DataType.of(Kind.BOOLEAN, shown);
            case "int2" -> DataType.precise(Kind.INTEGER, shown, 16, 0);
            case "int4" -> DataType.precise(Kind.INTEGER, shown, 32, 0);
            case "int8" -> DataType.precise(Kind.INTEGER, shown, 64, 0);
            case "numeric" ->
                modifier < 4
                        ? DataType.precise(Kind.DECIMAL, shown, DataType.UNLIMITED, 2)
                        : DataType.precise(Kind.DECIMAL, shown, (length >> 16) & 0xFFFF, length & 0x7FF);
            case "float4", "float8" -> DataType.of(Kind.FLOAT, shown);
            case "varchar" -> DataType.sized(Kind.TEXT, shown, length);
            case "text", "citext", "name" -> DataType.of(Kind.TEXT, shown);
            case "bpchar" -> DataType.sized(Kind.FIXED_TEXT, shown, length);
            case "bytea" -> DataType.of(Kind.BYTES, shown);
            case "date" -> DataType.of(Kind.DATE, shown);
            case "time" -> DataType.precise(Kind.TIME, shown, fraction, 0);
            case "timestamp" -> DataType.precise(Kind.TIMESTAMP, shown, fraction, 0);
            case "timestamptz" -> DataType.precise(Kind.INSTANT, shown, fraction, 0);
            case "uuid" -> DataType.of(Kind.UUID, shown);
            case "json", "jsonb" -> DataType.of(Kind.JSON, shown);
            default -> DataType.of(Kind.OTHER, shown);
        };
    }

    private void readConstraints() throws SQLException {
        each(
                "SELECT conrelid, contype, conname, conkey, confrelid, confkey, confupdtype, confdeltype, confmatchtype,"
                        + " condeferrable, condeferred, CASE WHEN contype IN ('c', 'x') THEN pg_get_constraintdef(k.oid) END, "
                        + nullsNotDistinct()
                        + " FROM pg_constraint k LEFT JOIN pg_index i ON i.indexrelid = conindid AND contype = 'u' WHERE conrelid <> 0 AND contype IN ('p', 'u', 'f', 'c', 'x')"
                        + " ORDER BY conrelid, conname",
                rows -> {
                    if (!draft.has(rows.getString(1))) {
                        return;
                    }
                    TableDraft table = draft.require(rows.getString(1));
                    String name = rows.getString(3);
                    switch (rows.getString(2)) {
                        case "p" ->
                            table.primaryKey = Optional.of(new UniqueKey(name, columns(table, rows.getArray(4))));
                        case "u" ->
                            table.uniques.add(new UniqueKey(
                                    name,
                                    columns(table, rows.getArray(4)),
                                    List.of(),
                                    Optional.empty(),
                                    !rows.getBoolean(13)));
                        // Rows that may not overlap have to be different in what the constraint names.
                        case "x" ->
                            table.uniques.add(
                                    new UniqueKey(name, List.of(), List.of(rows.getString(12)), Optional.empty()));
                        case "c" -> table.checks.add(new Check(name, condition(rows.getString(12))));
                        default -> reference(table, name, rows);
                    }
                });
    }

    /** Keys say so from version 15 on. */
    private String nullsNotDistinct() throws SQLException {
        return connection.getMetaData().getDatabaseMajorVersion() < 15 ? "false" : "i.indnullsnotdistinct";
    }

    private void reference(TableDraft table, String name, ResultSet rows) throws SQLException {
        if (!draft.has(rows.getString(5))) {
            return;
        }
        TableDraft target = draft.require(rows.getString(5));
        table.references.add(new Reference(
                name,
                columns(table, rows.getArray(4)),
                target.name,
                columns(target, rows.getArray(6)),
                SchemaDraft.action(rows.getString(8)),
                SchemaDraft.action(rows.getString(7)),
                rows.getString(9).equals("f") ? Reference.Match.FULL : Reference.Match.SIMPLE,
                SchemaDraft.deferral(rows.getBoolean(10), rows.getBoolean(11))));
    }

    private void readIndexes() throws SQLException {
        each(
                "SELECT i.indrelid, c.relname, i.indkey::int2[], pg_get_expr(i.indpred, i.indrelid),"
                        + " pg_get_expr(i.indexprs, i.indrelid), i.indnkeyatts, "
                        + nullsNotDistinct() + " FROM pg_index i JOIN pg_class c"
                        + " ON c.oid = i.indexrelid WHERE i.indisunique AND NOT i.indisprimary AND NOT EXISTS"
                        + " (SELECT 1 FROM pg_constraint k WHERE k.conindid = i.indexrelid) ORDER BY c.relname",
                rows -> {
                    if (!draft.has(rows.getString(1))) {
                        return;
                    }
                    TableDraft table = draft.require(rows.getString(1));
                    List<String> columns = new ArrayList<>();
                    Object[] numbers = (Object[]) rows.getArray(3).getArray();
                    for (int i = 0; i < rows.getInt(6); i++) {
                        int number = ((Number) numbers[i]).intValue();
                        if (number > 0) {
                            columns.add(table.shown(String.valueOf(table.numbers.get(number))));
                        }
                    }
                    String expressions = rows.getString(5);
                    table.unique(new UniqueKey(
                            rows.getString(2),
                            columns,
                            expressions == null ? List.of() : IndexParts.of(expressions),
                            Optional.ofNullable(rows.getString(4)),
                            !rows.getBoolean(7)));
                });
    }

    private static List<String> columns(TableDraft table, Array numbers) throws SQLException {
        List<String> columns = new ArrayList<>();
        for (Object number : (Object[]) numbers.getArray()) {
            columns.add(table.shown(String.valueOf(table.numbers.get(((Number) number).intValue()))));
        }
        return columns;
    }

    /** {@code CHECK ((a > 0)) NOT VALID} becomes {@code (a > 0)}. */
    private static String condition(String definition) {
        int open = definition.indexOf('(');
        int close = definition.lastIndexOf(')');
        return definition.substring(open + 1, close);
    }

    private void each(String sql, SchemaDraft.RowReader reader) throws SQLException {
        SchemaDraft.each(connection, sql, reader);
    }
}
