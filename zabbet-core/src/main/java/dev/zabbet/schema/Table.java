package dev.zabbet.schema;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.type.Kind;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** A table: its columns, keys, references and checks. Immutable; two are equal if all that they hold is. */
public final class Table {
    private static final Pattern DELETION = Pattern.compile("(?i).*(delet|remov|cancel|archiv|discard).*");
    private static final Set<Kind> DELETION_TIMES = EnumSet.of(Kind.TIMESTAMP, Kind.INSTANT, Kind.DATE);

    private final String name;
    private final String sqlSchema;
    private final String sqlName;
    private final List<Column> columns;
    private final List<String> columnNames;
    private final Optional<UniqueKey> primaryKey;
    private final List<UniqueKey> uniques;
    private final List<Reference> references;
    private final List<Check> checks;
    private final TableNature nature;
    private final Map<String, Integer> positions = new HashMap<>();

    /**
     * @param name the name as a person writes it, unique in its schema; with {@code schema.} before it where the table
     *     is not in the database's current schema
     * @param sqlSchema the exact name of the database schema; empty if there is none
     * @param sqlName the exact name of the table in the database
     * @param columns the columns in their order
     * @param primaryKey the primary key, if there is one
     * @param uniques the other unique keys
     * @param references the references to other rows
     * @param checks the check constraints
     * @param nature what is special about it
     * @throws UnknownNameException if a key or reference names a column that is not there
     */
    public Table(
            String name,
            String sqlSchema,
            String sqlName,
            List<Column> columns,
            Optional<UniqueKey> primaryKey,
            List<UniqueKey> uniques,
            List<Reference> references,
            List<Check> checks,
            TableNature nature) {
        this.name = name;
        this.sqlSchema = sqlSchema;
        this.sqlName = sqlName;
        this.columns = List.copyOf(columns);
        this.columnNames = List.copyOf(columns.stream().map(Column::name).toList());
        this.primaryKey = primaryKey;
        this.uniques = List.copyOf(uniques);
        this.references = List.copyOf(references);
        this.checks = List.copyOf(checks);
        this.nature = nature;
        for (int i = 0; i < columns.size(); i++) {
            positions.put(columns.get(i).name(), i);
        }
        Set<String> keyed = new HashSet<>();
        primaryKey.ifPresent(key -> keyed.addAll(key.columns()));
        uniques.forEach(key -> keyed.addAll(key.columns()));
        references.forEach(reference -> keyed.addAll(reference.columns()));
        keyed.forEach(this::requireColumn);
    }

    /** {@return the name as a person writes it} */
    public String name() {
        return name;
    }

    /** {@return the exact name of the database schema; empty if there is none} */
    public String sqlSchema() {
        return sqlSchema;
    }

    /** {@return the exact name in the database, without its schema} */
    public String sqlName() {
        return sqlName;
    }

    /** {@return the columns in their order} */
    public List<Column> columns() {
        return columns;
    }

    /** {@return the primary key, if there is one} */
    public Optional<UniqueKey> primaryKey() {
        return primaryKey;
    }

    /** {@return the names of the primary key's columns in key order; empty if there is no primary key} */
    public List<String> keyColumns() {
        return primaryKey.map(UniqueKey::columns).orElse(List.of());
    }

    /** {@return the unique keys other than the primary one} */
    public List<UniqueKey> uniques() {
        return uniques;
    }

    /** {@return the references to other rows} */
    public List<Reference> references() {
        return references;
    }

    /** {@return the check constraints} */
    public List<Check> checks() {
        return checks;
    }

    /** {@return what is special about the table} */
    public TableNature nature() {
        return nature;
    }

    /** {@return the column by which the database numbers the rows, if there is one} */
    public Optional<Column> numberedColumn() {
        return columns.stream().filter(Column::isNumbered).findFirst();
    }

    /** {@return the names of the columns in their order} */
    public List<String> columnNames() {
        return columnNames;
    }

    /**
     * Finds a column by the name that a person would write: case does not matter unless two names differ by it.
     *
     * @param columnName the column's name, as the table has it
     * @return the column; empty if there is none
     */
    public Optional<Column> column(String columnName) {
        int at = position(columnName);
        return at < 0 ? Optional.empty() : Optional.of(columns.get(at));
    }

    /**
     * {@return the column of this name}
     *
     * @param columnName the column's name, as the table has it
     * @throws UnknownNameException if there is none; it suggests the nearest
     */
    public Column requireColumn(String columnName) {
        return columns.get(requirePosition(columnName));
    }

    /**
     * {@return where the column of this name stands, from 0, or -1 if there is none}
     *
     * @param columnName the column's name, as the table has it
     */
    public int position(String columnName) {
        Integer exact = positions.get(columnName);
        if (exact != null) {
            return exact;
        }
        Integer lower = positions.get(columnName.toLowerCase(Locale.ROOT));
        if (lower != null) {
            return lower;
        }
        int found = -1;
        for (int i = 0; i < columns.size(); i++) {
            if (columns.get(i).name().equalsIgnoreCase(columnName)) {
                if (found >= 0) {
                    return -1;
                }
                found = i;
            }
        }
        return found;
    }

    /**
     * {@return where the column of this name stands, from 0}
     *
     * @param columnName the column's name, as the table has it
     * @throws UnknownNameException if there is none; it suggests the nearest
     */
    public int requirePosition(String columnName) {
        int at = position(columnName);
        if (at < 0) {
            throw new UnknownNameException("column of table " + name, columnName, columnNames());
        }
        return at;
    }

    /**
     * Finds the column that a property of this name means: {@code hutId} means {@code hut_id}, {@code HUT_ID} too.
     *
     * @param property the property's name
     * @return the column; empty if there is none
     */
    public Optional<Column> columnForProperty(String property) {
        Optional<Column> snake = column(Words.snakeCase(property));
        return snake.isPresent()
                ? snake
                : columns.stream().filter(c -> Words.alike(c.name(), property)).findFirst();
    }

    /**
     * {@return whether a constraint is one of this table's, by its name or, as a driver may say it, by a column's}
     *
     * @param constraint the name, in any case
     */
    public boolean hasConstraint(String constraint) {
        return Stream.of(
                        primaryKey.stream().map(UniqueKey::name),
                        uniques.stream().map(UniqueKey::name),
                        references.stream().map(Reference::name),
                        checks.stream().map(Check::name),
                        columns.stream().map(Column::name),
                        columns.stream().map(column -> name + "." + column.name()))
                .flatMap(names -> names)
                .anyMatch(own -> own.equalsIgnoreCase(constraint)
                        || (own.isEmpty()
                                && constraint.toLowerCase(Locale.ROOT).startsWith(name.toLowerCase(Locale.ROOT))));
    }

    /** {@return the columns that, by their names and types, say when a row was deleted: nullable times such as deleted_at} */
    public List<Column> deletionColumns() {
        return columns.stream()
                .filter(c -> c.nullable()
                        && DELETION_TIMES.contains(c.type().kind())
                        && DELETION.matcher(c.name()).matches())
                .toList();
    }

    /**
     * {@return the references in which this column takes part}
     *
     * @param columnName the column's name, as the table has it
     */
    public List<Reference> referencesOf(String columnName) {
        return references.stream().filter(r -> r.columns().contains(columnName)).toList();
    }

    @Override
    public boolean equals(Object other) {
        return other == this
                || (other instanceof Table that
                        && name.equals(that.name)
                        && sqlSchema.equals(that.sqlSchema)
                        && sqlName.equals(that.sqlName)
                        && columns.equals(that.columns)
                        && primaryKey.equals(that.primaryKey)
                        && uniques.equals(that.uniques)
                        && references.equals(that.references)
                        && checks.equals(that.checks)
                        && nature.equals(that.nature));
    }

    @Override
    public int hashCode() {
        return name.hashCode();
    }

    @Override
    public String toString() {
        return name + "(" + String.join(", ", columnNames()) + ")";
    }
}
