package dev.zabbet.jdbc.internal.extract;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.Extract.Asked;
import dev.zabbet.extract.Extract.Below;
import dev.zabbet.internal.text.ColumnPattern;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** What an extract asks for, laid over the tables that there are: refused where it makes no sense, before anything is read. */
final class Scope {
    private final Schema schema;
    private final Extract extract;
    private final Map<Table, Asked> asked = new LinkedHashMap<>();
    private final Set<String> named = new LinkedHashSet<>();

    Scope(Schema schema, Extract extract, Collection<TableKeys> tables) {
        this.schema = schema;
        this.extract = extract;
        extract.asked().forEach((name, what) -> asked.merge(schema.require(name), what, Asked::and));
        requireSense(tables);
    }

    /** What is asked of tables, those included of which only a condition or an order is given. */
    Map<Table, Asked> asked() {
        return asked;
    }

    /** What was named to be taken below others, star left out. */
    List<Below> belowByName() {
        return extract.below().stream()
                .filter(below -> !below.table().equals("*"))
                .toList();
    }

    /** Refuses what would do nothing. */
    private void requireSense(Collection<TableKeys> tables) {
        if (asked.values().stream().noneMatch(Asked::wanted)) {
            throw new ZabbetException("Nothing is asked for. Name a table and a number: guest=10.");
        }
        extract.without().forEach(this::requireLeftOut);
        for (TableKeys keys : tables) {
            for (Column column : keys.key()) {
                if (extract.leavesOut(keys.table().name(), column.name())) {
                    throw new ZabbetException(keys.table().name() + "." + column.name()
                            + " is a key and cannot be left out. Keys that a database gives are not written anyhow.");
                }
            }
        }
        reach();
        for (Map.Entry<Table, Asked> one : asked.entrySet()) {
            boolean below = named.contains(one.getKey().name());
            if (!one.getValue().wanted() && !below) {
                throw new ZabbetException("A condition or an order was given for "
                        + one.getKey().name() + ", and no rows of it are asked for, nor wanted below others.");
            }
        }
    }

    /** What is left out is a column, or a place in the documents of one. */
    private void requireLeftOut(String pattern) {
        if (schema.tables().stream()
                .anyMatch(table -> !DocumentParts.meant(table, pattern).isEmpty())) {
            return;
        }
        requireColumn(schema, pattern);
        for (Table table : schema.tables()) {
            for (Column column : table.columns()) {
                String name = table.name() + "." + column.name();
                if (pattern.toLowerCase(Locale.ROOT).startsWith(name.toLowerCase(Locale.ROOT) + ".")) {
                    throw new ZabbetException(name + " is " + column.type().sqlName()
                            + " and holds no documents, so that there is no " + pattern + ".");
                }
            }
        }
    }

    /** Works out which tables rows can be found of, going down. */
    private void reach() {
        for (Below below : extract.below()) {
            if (!below.table().equals("*")) {
                Table table = tableOf(below);
                if (table.references().isEmpty()) {
                    throw new ZabbetException(table.name() + " stands below nothing: it refers to no table.");
                }
            }
        }
        asked.forEach((table, what) -> {
            if (what.wanted()) {
                named.add(table.name());
            }
        });
        boolean again = true;
        while (again) {
            again = false;
            for (Table table : schema.tables()) {
                for (Reference reference : table.references()) {
                    again |= named.contains(reference.target())
                            && table.nature().form() != TableNature.Form.PART
                            && below(table, reference).isPresent()
                            && named.add(table.name());
                }
            }
        }
        for (Below below : extract.below()) {
            if (!below.table().equals("*")) {
                named.add(tableOf(below).name());
            }
        }
    }

    Table tableOf(Below below) {
        Optional<Table> table = schema.table(below.table());
        int dot = below.table().lastIndexOf('.');
        if (table.isPresent() || dot < 0) {
            return table.orElseGet(() -> schema.require(below.table()));
        }
        Table of = schema.require(below.table().substring(0, dot));
        Column column = of.requireColumn(below.table().substring(dot + 1));
        if (of.referencesOf(column.name()).isEmpty()) {
            throw new ZabbetException(
                    of.name() + "." + column.name() + " refers to no table, so that nothing stands below by it.");
        }
        return of;
    }

    /** What was said of the rows of a table below those that a reference leads to; a named table counts before the star. */
    Optional<Below> below(Table table, Reference reference) {
        Optional<Below> found = Optional.empty();
        for (Below below : extract.below()) {
            boolean star = below.table().equals("*");
            if (star ? found.isEmpty() : means(below, table, reference)) {
                found = Optional.of(below);
            }
        }
        return found;
    }

    private boolean means(Below below, Table table, Reference reference) {
        if (!tableOf(below).equals(table)) {
            return false;
        }
        return schema.table(below.table()).isPresent()
                || reference.columns().stream()
                        .anyMatch(
                                c -> below.table().toLowerCase(Locale.ROOT).endsWith("." + c.toLowerCase(Locale.ROOT)));
    }

    /**
     * Rows below those that only came along are wanted if the reference was named, or if rows of the table can be found in no other
     * way.
     */
    boolean goesDownFromParents(Table child, Below below) {
        if (below.table().equals("*")) {
            return false;
        }
        return schema.table(below.table()).isEmpty()
                || child.references().stream()
                        .noneMatch(r -> !r.target().equals(child.name()) && named.contains(r.target()));
    }

    /** All tables but those whose rows another table has as well: of a partition each row would be taken twice. */
    List<Table> wholeTables() {
        return schema.tables().stream()
                .filter(table -> table.nature().form() != TableNature.Form.PART || named.contains(table.name()))
                .toList();
    }

    /** Refuses the name of a column that is nowhere. */
    static void requireColumn(Schema schema, String pattern) {
        List<String> columns = new ArrayList<>();
        schema.tables().forEach(t -> t.columns().forEach(c -> columns.add(t.name() + "." + c.name())));
        // what stands behind the column's name leads into its documents
        boolean known = columns.stream()
                .anyMatch(column -> ColumnPattern.matches(pattern, column)
                        || pattern.toLowerCase(Locale.ROOT).startsWith(column.toLowerCase(Locale.ROOT) + "."));
        if (!known) {
            throw new UnknownNameException("column", pattern, columns);
        }
    }
}
