package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** How a database writes SQL: names, rows, conditions, scripts. What is given here is standard SQL (ISO 9075). A role of a {@link Dialect}. */
public interface SqlSyntax {
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

    /** Returns what stands for a value of the column where nothing else tells its type. */
    default String typed(Column column) {
        return "CAST(" + placeholder(column) + " AS " + column.type().sqlName() + ")";
    }

    /** Returns what {@link ColumnValues#bind} bound as it stands in SQL; it is not null. */
    default String literal(Object bound) {
        if (bound instanceof Boolean || (bound instanceof Number && !isOutside(bound))) {
            return bound instanceof BigDecimal number
                    ? number.toPlainString()
                    : bound.toString().toUpperCase(Locale.ROOT);
        }
        if (bound instanceof byte[] bytes) {
            return "X'" + HexFormat.of().formatHex(bytes) + "'";
        }
        String text = bound.toString();
        return text.chars().anyMatch(SqlSyntax::isLostInAFile) ? encoded(text) : "'" + text.replace("'", "''") + "'";
    }

    /** A client may end a text at such a character, change it, or take it for a command. */
    private static boolean isLostInAFile(int c) {
        return (c < ' ' && c != '\n' && c != '\t')
                || (c >= 0x7F && c < 0xA0)
                || c == 0xFEFF
                || c == 0x2028
                || c == 0x2029;
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

    /** Returns what selects a column's value so that {@link ColumnValues#read} reads it, however often it is asked for. */
    default String selected(Column column, String name) {
        return name;
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

    /**
     * Returns a condition that is true of each row in whose document a value stands at a place, and perhaps of others: those are
     * looked at by {@link TableSql}.
     *
     * @param steps names, and positions from 0, down from the document
     * @param wanted text, a {@code BigDecimal}, true, false, or a map or list of these
     * @return empty if the database has no operator for that
     */
    default Optional<String> inside(Column column, List<Object> steps, Object wanted) {
        return Optional.empty();
    }
}
