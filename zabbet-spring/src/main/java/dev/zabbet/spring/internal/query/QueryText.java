package dev.zabbet.spring.internal.query;

import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * The text of a query as a parser of SQL reads it: what Jakarta Persistence and Spring Data add to SQL is written in its
 * terms.
 *
 * @param sql the text
 * @param made the name of the class that SELECT NEW makes objects of; null without it
 * @param fetching whether relations are fetched, by which no object is found twice
 */
record QueryText(String sql, @Nullable String made, boolean fetching) {
    /** Stands for MEMBER OF. */
    static final String MEMBER = "member_of";

    private static final Pattern NEW = Pattern.compile("(?is)^\\s*select\\s+(distinct\\s+)?new\\s+([\\w.$]+)\\s*\\(");
    private static final String THIS = "this_";

    static QueryText ofObjects(String text, String entity) throws UnsupportedQueryException {
        String sql = text.replace("#{#entityName}", entity).strip();
        if (sql.contains("#{")) {
            throw new UnsupportedQueryException("#{");
        }
        boolean fetching =
                Pattern.compile("(?i)\\bjoin\\s+fetch\\b").matcher(sql).find();
        sql = sql.replaceAll("(?i)\\bjoin\\s+fetch\\b", "join")
                .replaceAll("(?i)\\blike\\s+%(:\\w+|\\?\\d+)%", "like concat('%', $1, '%')")
                .replaceAll("(?i)\\blike\\s+(:\\w+|\\?\\d+)%", "like concat($1, '%')")
                .replaceAll("(?i)\\blike\\s+%(:\\w+|\\?\\d+)", "like concat('%', $1)")
                .replaceAll("(?i)([\\w.]+)\\s+is\\s+not\\s+empty\\b", "size($1) > 0")
                .replaceAll("(?i)([\\w.]+)\\s+is\\s+empty\\b", "size($1) = 0")
                .replaceAll("(?i)([:?\\w.]+)\\s+not\\s+member\\s+(of\\s+)?([\\w.]+)", "not " + MEMBER + "($1, $3)")
                .replaceAll("(?i)([:?\\w.]+)\\s+member\\s+(of\\s+)?([\\w.]+)", MEMBER + "($1, $3)");
        Matcher made = NEW.matcher(sql);
        if (!made.find()) {
            return new QueryText(selecting(sql, entity), null, fetching);
        }
        int end = closing(sql, made.end());
        String distinct = made.group(1) == null ? "" : made.group(1);
        return new QueryText(
                "select " + distinct + sql.substring(made.end(), end) + sql.substring(end + 1),
                made.group(2),
                fetching);
    }

    static QueryText ofRows(String text) throws UnsupportedQueryException {
        if (text.contains("#{")) {
            throw new UnsupportedQueryException("#{");
        }
        return new QueryText(text, null, false);
    }

    /** What selects whole objects may leave out SELECT, and in Jakarta Data FROM. */
    private static String selecting(String sql, String entity) {
        if (sql.matches("(?is)(where|order)\\b.*")) {
            return "select " + THIS + " from " + entity + " " + THIS + " " + sql;
        }
        Matcher from = Pattern.compile(
                        "(?is)^from\\s+([\\w.$]+)(?:\\s+(?:as\\s+)?(?!where\\b|order\\b|join\\b|left\\b|inner\\b)(\\w+))?(.*)$")
                .matcher(sql);
        if (!from.matches()) {
            return sql;
        }
        String alias = from.group(2) == null ? THIS : from.group(2);
        return "select " + alias + " from " + from.group(1) + " " + alias + from.group(3);
    }

    private static int closing(String text, int start) throws UnsupportedQueryException {
        int depth = 1;
        for (int i = start; i < text.length(); i++) {
            switch (text.charAt(i)) {
                case '(' -> depth++;
                case ')' -> depth--;
                default -> {}
            }
            if (depth == 0) {
                return i;
            }
        }
        throw new UnsupportedQueryException(text.substring(start));
    }
}
