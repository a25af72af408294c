package dev.zabbet.jdbc.internal.mariadb;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Reference.Action;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * The rows that MariaDB deletes, empties or moves by itself when their parent goes or gets another key. No trigger fires
 * for them (its documentation, "Trigger Limitations"), so that the parent's own trigger copies them before it happens.
 * Circles of such references through several tables are followed once round.
 */
@SuppressWarnings("ReferenceEquality") // a table of one schema is itself only
final class MariaDbFollowers {
    private final Schema schema;
    private final MariaDbJournal journal;

    MariaDbFollowers(Schema schema, MariaDbJournal journal) {
        this.schema = schema;
        this.journal = journal;
    }

    /** Rows of a table: what they are selected from, under which name, and where. */
    private record Reach(String with, String from, String alias, String where) {}

    /** Returns the statements that copy what follows when a row of this table is deleted or its key updated. */
    String of(Table table, boolean update) {
        StringBuilder body = new StringBuilder();
        for (Table child : schema.tables()) {
            List<Reference> following = child.references().stream()
                    .filter(r -> r.target().equals(table.name()) && action(r, update) != Action.REFUSE)
                    .sorted(Comparator.comparing(r -> action(r, update) != Action.CASCADE))
                    .toList();
            for (int i = 0; i < following.size(); i++) {
                Reference reference = following.get(i);
                String where = join(reference, child, "r0", table, "OLD");
                for (Reference other : following.subList(0, i)) { // whose rows have been copied
                    where += " AND (" + join(other, child, "r0", table, "OLD") + ") IS NOT TRUE";
                }
                if (child == table) {
                    where += notTheRowItself(reference, table, "r0");
                }
                boolean gone = !update && action(reference, false) == Action.CASCADE;
                Walk walk = new Walk(table, new StringBuilder());
                walk.follow(
                        child,
                        reference,
                        new Reach("", name(child) + " r0", "r0", where),
                        gone ? Map.of() : afterwards(child, following, table, update),
                        gone,
                        0,
                        new HashSet<>());
                body.append(update ? " IF NOT (" + unchanged(reference, table) + ") THEN " : " ")
                        .append(walk.statements)
                        .append(update ? " END IF;" : "");
            }
        }
        return body.toString();
    }

    private String unchanged(Reference reference, Table table) {
        return reference.targetColumns().stream()
                .map(c -> name(table.requireColumn(c)))
                .map(c -> "OLD." + c + " <=> NEW." + c)
                .collect(Collectors.joining(" AND "));
    }

    private String notTheRowItself(Reference reference, Table table, String alias) {
        return reference.targetColumns().stream()
                .map(c -> name(table.requireColumn(c)))
                .map(c -> alias + "." + c + " <=> OLD." + c)
                .collect(Collectors.joining(" AND ", " AND NOT (", ")"));
    }

    private static Action action(Reference reference, boolean update) {
        return update ? reference.onUpdate() : reference.onDelete();
    }

    /** What the columns that refer to the row will hold: the key that it gets, or nothing. */
    private Map<String, String> afterwards(Table child, List<Reference> following, Table parent, boolean update) {
        Map<String, String> values = new LinkedHashMap<>();
        for (Reference reference : following) {
            for (int i = 0; i < reference.columns().size(); i++) {
                Column column = child.requireColumn(reference.columns().get(i));
                Column target = parent.requireColumn(reference.targetColumns().get(i));
                String now = action(reference, update) == Action.CASCADE ? "NEW." + name(target) : "NULL";
                values.merge(
                        column.name(),
                        "CASE WHEN " + join(reference, child, "r0", parent, "OLD") + " THEN " + now + " ELSE r0."
                                + name(column) + " END",
                        (one, other) -> other.replace("ELSE r0." + name(column) + " END", "ELSE " + one + " END"));
            }
        }
        return values;
    }

    /** One way down from a row that goes or gets another key. */
    private final class Walk {
        private final Table root;
        private final StringBuilder statements;

        Walk(Table root, StringBuilder statements) {
            this.root = root;
            this.statements = statements;
        }

        /**
         * Copies the rows of {@code child} within reach, and those below them that follow in turn.
         *
         * @param values what some columns will hold, by name; none of rows that will be gone
         */
        void follow(
                Table child,
                Reference reached,
                Reach reach,
                Map<String, String> values,
                boolean gone,
                int depth,
                Set<Reference> path) {
            if (!path.add(reached)) {
                return; // a circle: the rows further round it are not looked for
            }
            Reach rows =
                    gone && reached.target().equals(child.name()) ? descendants(child, reached, reach, depth) : reach;
            copy(child, 'B', journal.columns(child, rows.alias() + "."), rows);
            if (!gone) {
                String after = child.columns().stream()
                        .map(c -> values.getOrDefault(c.name(), rows.alias() + "." + name(c)))
                        .collect(Collectors.joining(", "));
                copy(child, 'A', after, rows);
            }
            for (Table below : schema.tables()) {
                for (Reference next : below.references()) {
                    boolean touched = gone || next.targetColumns().stream().anyMatch(values::containsKey);
                    Action action = action(next, !gone);
                    if (next.target().equals(child.name())
                            && touched
                            && action != Action.REFUSE
                            && !next.equals(reached)) {
                        String alias = "r" + (depth + 1);
                        String from = name(below) + " " + alias + " JOIN " + rows.from() + " ON "
                                + join(next, below, alias, child, rows.alias());
                        boolean goneToo = gone && action == Action.CASCADE;
                        follow(
                                below,
                                next,
                                new Reach(rows.with(), from, alias, rows.where()),
                                goneToo ? Map.of() : passedOn(next, child, rows.alias(), values, action, gone),
                                goneToo,
                                depth + 1,
                                new HashSet<>(path));
                    }
                }
            }
        }

        /** All rows below those within reach, by a reference of a table to itself. */
        private Reach descendants(Table child, Reference reached, Reach reach, int depth) {
            String name = "descendants" + depth;
            String own = child == root ? notTheRowItself(reached, child, "below") : "";
            String all = (reach.with().isEmpty() ? "WITH RECURSIVE " : reach.with() + ", ") + name + " AS (SELECT "
                    + journal.columns(child, reach.alias() + ".") + " FROM " + reach.from() + " WHERE " + reach.where()
                    + " UNION SELECT " + journal.columns(child, "below.") + " FROM " + name(child) + " below JOIN "
                    + name
                    + " ON " + join(reached, child, "below", child, name) + own + ")";
            return new Reach(all, name + " r" + depth, "r" + depth, "TRUE");
        }

        private void copy(Table child, char side, String columns, Reach rows) {
            statements
                    .append("INSERT INTO ")
                    .append(journal.shadow(child))
                    .append(" (zabbet_number, zabbet_side, ")
                    .append(journal.columns(child, ""))
                    .append(") ")
                    .append(rows.with())
                    .append(" SELECT " + journal.next() + ", '")
                    .append(side)
                    .append("', ")
                    .append(columns)
                    .append(" FROM ")
                    .append(rows.from())
                    .append(" WHERE ")
                    .append(rows.where())
                    .append(" LOCK IN SHARE MODE; ") // waits for rows that somebody has not committed yet
                    .append("IF ROW_COUNT() > 0 THEN ")
                    .append(journal.logged(child))
                    .append("END IF; ");
        }
    }

    private Map<String, String> passedOn(
            Reference next, Table child, String alias, Map<String, String> values, Action action, boolean gone) {
        Map<String, String> below = new LinkedHashMap<>();
        for (int i = 0; i < next.columns().size(); i++) {
            Column target = child.requireColumn(next.targetColumns().get(i));
            String now = values.getOrDefault(target.name(), alias + "." + name(target));
            below.put(next.columns().get(i), gone || action != Action.CASCADE ? "NULL" : now);
        }
        return below;
    }

    private String join(Reference reference, Table child, String childAlias, Table parent, String parentAlias) {
        StringBuilder join = new StringBuilder();
        for (int i = 0; i < reference.columns().size(); i++) {
            join.append(i == 0 ? "" : " AND ")
                    .append(childAlias + "."
                            + name(child.requireColumn(reference.columns().get(i))))
                    .append(" = ")
                    .append(parentAlias
                            + "."
                            + name(parent.requireColumn(
                                    reference.targetColumns().get(i))));
        }
        return join.toString();
    }

    private String name(Table table) {
        return journal.dialect.name(table);
    }

    private String name(Column column) {
        return journal.dialect.quote(column.sqlName());
    }
}
