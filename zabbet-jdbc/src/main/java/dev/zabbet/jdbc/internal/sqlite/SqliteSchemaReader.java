package dev.zabbet.jdbc.internal.sqlite;

import dev.zabbet.jdbc.internal.dialect.IndexParts;
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
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Reads the tables of an SQLite database by its pragmas, asked as tables, one query for each kind of thing. Checks and
 * deferrability stand only in the text of the DDL and are read from there.
 */
final class SqliteSchemaReader {
    private static final String TABLES =
            "sqlite_master m WHERE m.type = 'table' AND m.name NOT LIKE 'sqlite\\_%' ESCAPE"
                    + " '\\' AND m.name NOT LIKE 'zabbet\\_%' ESCAPE '\\'"
                    // Neither virtual tables nor those that they keep their own things in.
                    + " AND m.name IN (SELECT name FROM pragma_table_list WHERE schema = 'main' AND type = 'table')";
    private static final Pattern SIZE = Pattern.compile("\\(\\s*(\\d+)\\s*(?:,\\s*(\\d+)\\s*)?\\)");

    private final Connection connection;
    private final SchemaDraft draft = new SchemaDraft(false);
    private final Map<String, String> ddl = new LinkedHashMap<>();

    private record RawColumn(
            String name,
            String type,
            boolean notNull,
            @Nullable String defaultText,
            int key,
            int hidden) {}

    SqliteSchemaReader(Connection connection) {
        this.connection = connection;
    }

    Schema read() throws SQLException {
        each("SELECT m.name, m.sql FROM " + TABLES + " ORDER BY m.name", rows -> {
            draft.add(rows.getString(1), "", rows.getString(1), true);
            ddl.put(rows.getString(1), String.valueOf(rows.getString(2)));
        });
        readColumns();
        readKeys();
        readReferences();
        ddl.forEach((table, sql) -> readChecks(draft.require(table), sql));
        each("SELECT tbl_name, name FROM sqlite_master WHERE type = 'trigger' ORDER BY name", rows -> {
            if (draft.has(rows.getString(1)) && !rows.getString(2).startsWith("zabbet_")) {
                draft.require(rows.getString(1)).triggers.add(rows.getString(2));
            }
        });
        return draft.schema(false);
    }

    private void readColumns() throws SQLException {
        Map<String, List<RawColumn>> columns = new LinkedHashMap<>();
        each(
                "SELECT m.name, c.name, c.type, c.\"notnull\", c.dflt_value, c.pk, c.hidden FROM pragma_table_xinfo(m.name) c,"
                        + " " + TABLES + " ORDER BY m.name, c.cid",
                rows -> columns.computeIfAbsent(rows.getString(1), t -> new ArrayList<>())
                        .add(new RawColumn(
                                rows.getString(2),
                                rows.getString(3),
                                rows.getBoolean(4),
                                rows.getString(5),
                                rows.getInt(6),
                                rows.getInt(7))));
        columns.forEach((name, raw) -> {
            TableDraft table = draft.require(name);
            Map<Integer, String> key = new TreeMap<>();
            raw.stream().filter(c -> c.key() > 0).forEach(c -> key.put(c.key(), c.name()));
            boolean rowId = !ddl.getOrDefault(name, "").toUpperCase(Locale.ROOT).contains("WITHOUT ROWID");
            for (RawColumn column : raw) {
                // A single INTEGER primary key is another name for the row's own number.
                boolean numbered = rowId
                        && key.size() == 1
                        && column.key() == 1
                        && column.type().equalsIgnoreCase("INTEGER");
                Generation generation;
                if (column.hidden() >= 2) {
                    generation = Generation.COMPUTED;
                } else if (numbered) {
                    generation = Generation.IDENTITY;
                } else {
                    generation = Generation.NONE;
                }
                boolean nullable = !column.notNull() && column.key() == 0;
                String text = generation == Generation.COMPUTED
                        ? computed(ddl.getOrDefault(name, ""), column.name())
                        : column.defaultText();
                table.column(column.name(), type(column.type()), nullable, text, generation, null);
            }
            if (!key.isEmpty()) {
                table.primaryKey = Optional.of(new UniqueKey("", table.shown(List.copyOf(key.values()))));
            }
        });
    }

    /** Finds the expression of a computed column in the text that made the table; null where it is not found. */
    private static @Nullable String computed(String text, String column) {
        Matcher start = Pattern.compile("(?is)[(,\\s\"`\\[]" + Pattern.quote(column)
                        + "[\"`\\]]?\\s[^,()]*(\\(\\d+(\\s*,\\s*\\d+)?\\))?[^,()]*\\bAS\\s*\\(")
                .matcher(text);
        if (!start.find()) {
            return null;
        }
        int depth = 1;
        for (int i = start.end(); i < text.length(); i++) {
            switch (text.charAt(i)) {
                case '(' -> depth++;
                case ')' -> depth--;
                default -> {}
            }
            if (depth == 0) {
                return text.substring(start.end(), i);
            }
        }
        return null;
    }

    /** Maps a declared type; SQLite itself goes by parts of its name (its documentation, "Determination of affinity"). */
    private static DataType type(String declared) {
        String name = declared.toUpperCase(Locale.ROOT);
        Matcher size = SIZE.matcher(name);
        boolean sized = size.find();
        int length = sized ? Integer.parseInt(size.group(1)) : DataType.UNLIMITED;
        int scale = sized && size.group(2) != null ? Integer.parseInt(size.group(2)) : 0;
        String base = name.replaceAll("\\(.*", "").strip();
        if (base.contains("BOOL")) {
            return DataType.of(Kind.BOOLEAN, declared);
        }
        if (base.contains("INT")) {
            return DataType.precise(Kind.INTEGER, declared, 64, 0);
        }
        if (base.contains("UUID")) {
            return DataType.of(Kind.UUID, declared);
        }
        if (base.contains("JSON")) {
            return DataType.of(Kind.JSON, declared);
        }
        if (base.contains("CHAR") || base.contains("CLOB") || base.contains("TEXT")) {
            return DataType.sized(Kind.TEXT, declared, length);
        }
        if (base.contains("BLOB") || base.contains("BINARY")) {
            return DataType.of(Kind.BYTES, declared);
        }
        if (base.contains("REAL") || base.contains("FLOA") || base.contains("DOUB")) {
            return DataType.of(Kind.FLOAT, declared);
        }
        if (base.contains("DATETIME") || base.contains("TIMESTAMP")) {
            return DataType.precise(Kind.TIMESTAMP, declared, sized ? length : 6, 0);
        }
        if (base.contains("DATE")) {
            return DataType.of(Kind.DATE, declared);
        }
        if (base.contains("TIME")) {
            return DataType.precise(Kind.TIME, declared, sized ? length : 6, 0);
        }
        if (base.contains("DEC") || base.contains("NUM")) {
            return DataType.precise(Kind.DECIMAL, declared, length, sized ? scale : 2);
        }
        return DataType.of(Kind.OTHER, declared);
    }

    private void readKeys() throws SQLException {
        Map<String, List<String>> keys = new LinkedHashMap<>();
        Map<String, String> conditions = new LinkedHashMap<>();
        each(
                "SELECT m.name, i.name, i.partial, c.name, (SELECT x.sql FROM sqlite_master x WHERE x.name = i.name)"
                        + " FROM pragma_index_list(m.name) i, pragma_index_xinfo(i.name) c, " + TABLES
                        + " AND i.\"unique\" = 1 AND i.origin <> 'pk' AND c.key = 1 ORDER BY m.name, i.name, c.seqno",
                rows -> {
                    String place = rows.getString(1) + SchemaDraft.BETWEEN + rows.getString(2);
                    keys.computeIfAbsent(place, k -> new ArrayList<>()).add(String.valueOf(rows.getString(4)));
                    String sql = rows.getString(5);
                    if (sql != null) {
                        conditions.put(place, sql);
                    }
                });
        keys.forEach((place, columns) -> {
            String[] parts = place.split(SchemaDraft.BETWEEN);
            TableDraft table = draft.require(parts[0]);
            String sql = conditions.getOrDefault(place, "");
            boolean expressions = columns.contains("null");
            int where = sql.toUpperCase(Locale.ROOT).lastIndexOf(" WHERE ");
            List<String> plain = columns.stream().filter(c -> !c.equals("null")).toList();
            table.unique(new UniqueKey(
                    parts[1].startsWith("sqlite_autoindex") ? "" : parts[1],
                    table.shown(plain),
                    expressions ? expressions(sql.substring(0, where < 0 ? sql.length() : where), plain) : List.of(),
                    where < 0 ? Optional.empty() : Optional.of(sql.substring(where + " WHERE ".length()))));
        });
    }

    /** Returns what is indexed beyond plain columns, from the text that made the index. */
    private static List<String> expressions(String sql, List<String> plain) {
        String list = sql.substring(sql.indexOf('(') + 1, sql.lastIndexOf(')'));
        return IndexParts.of(list).stream()
                .filter(part -> plain.stream().noneMatch(c -> c.equalsIgnoreCase(part.replaceAll("[\"`\\[\\]]", ""))))
                .toList();
    }

    private void readReferences() throws SQLException {
        Map<String, List<String[]>> references = new LinkedHashMap<>();
        each(
                "SELECT m.name, f.id, f.\"table\", f.\"from\", f.\"to\", f.on_update, f.on_delete FROM"
                        + " pragma_foreign_key_list(m.name) f, " + TABLES + " ORDER BY m.name, f.id, f.seq",
                rows -> references
                        .computeIfAbsent(
                                rows.getString(1) + SchemaDraft.BETWEEN + rows.getInt(2), k -> new ArrayList<>())
                        .add(new String[] {
                            rows.getString(3),
                            rows.getString(4),
                            rows.getString(5),
                            rows.getString(6),
                            rows.getString(7)
                        }));
        references.forEach((place, parts) -> {
            TableDraft own = draft.require(place.split(SchemaDraft.BETWEEN)[0]);
            TableDraft target = draft.all().stream()
                    .filter(t -> t.exact.equalsIgnoreCase(parts.get(0)[0]))
                    .findFirst()
                    .orElse(null);
            if (target == null) {
                return;
            }
            boolean toKey = parts.get(0)[2] == null;
            List<String> columns = parts.stream().map(p -> own.shown(p[1])).toList();
            own.references.add(new Reference(
                    "",
                    columns,
                    target.name,
                    toKey
                            ? target.primaryKey.map(UniqueKey::columns).orElse(List.of())
                            : parts.stream().map(p -> target.shown(p[2])).toList(),
                    SchemaDraft.action(parts.get(0)[4]),
                    SchemaDraft.action(parts.get(0)[3]),
                    Reference.Match.SIMPLE,
                    deferral(ddl.getOrDefault(own.exact, ""), target.exact)));
        });
    }

    private static Reference.Deferral deferral(String sql, String target) {
        String after = "(?is).*REFERENCES\\s+[\"`\\[]?" + Pattern.quote(target)
                + "[\"`\\]]?\\s*(\\([^)]*\\))?[^,]*?(?<!NOT )DEFERRABLE\\s+INITIALLY\\s+DEFERRED.*";
        return sql.matches(after) ? Reference.Deferral.INITIALLY : Reference.Deferral.NEVER;
    }

    /** Finds the conditions behind CHECK by their parentheses, past quotes and comments. */
    private static void readChecks(TableDraft table, String sql) {
        Matcher check = Pattern.compile("(?i)(?:CONSTRAINT\\s+[\"`\\[]?(\\w+)[\"`\\]]?\\s+)?\\bCHECK\\s*\\(")
                .matcher(sql);
        int from = 0;
        while (check.find(from)) {
            int depth = 1;
            int at = check.end();
            while (at < sql.length() && depth > 0) {
                char c = sql.charAt(at);
                if (c == '\'' || c == '"') {
                    int close = sql.indexOf(c, at + 1);
                    at = close < 0 ? sql.length() : close;
                }
                switch (c) {
                    case '(' -> depth++;
                    case ')' -> depth--;
                    default -> {}
                }
                at++;
            }
            String name = check.group(1);
            table.checks.add(new Check(
                    name == null ? "" : name,
                    sql.substring(check.end(), Math.max(check.end(), at - 1)).strip()));
            from = at;
        }
    }

    private void each(String sql, SchemaDraft.RowReader reader) throws SQLException {
        SchemaDraft.each(connection, sql, reader);
    }
}
