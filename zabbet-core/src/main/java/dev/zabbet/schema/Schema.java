package dev.zabbet.schema;

import dev.zabbet.error.UnknownNameException;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/** The tables that rows can be stored in. Immutable. */
public final class Schema {
    private final Map<String, Table> tables = new LinkedHashMap<>();
    private final boolean enforcesTypes;
    private final StoringOrder storingOrder;
    private final Map<String, String> leftOut;

    /**
     * @param tables the tables; their order is kept
     * @throws ZabbetException if two have one name
     * @throws UnknownNameException if a reference names a table or column that is not there
     */
    public Schema(List<Table> tables) {
        this(tables, true);
    }

    /**
     * @param tables the tables; their order is kept
     * @param enforcesTypes whether the database refuses values that do not fit a column's type; SQLite does not
     * @throws ZabbetException if two have one name
     * @throws UnknownNameException if a reference names a table or column that is not there
     */
    public Schema(List<Table> tables, boolean enforcesTypes) {
        this(tables, enforcesTypes, Map.of());
    }

    /**
     * @param tables the tables; their order is kept
     * @param enforcesTypes whether the database refuses values that do not fit a column's type; SQLite does not
     * @param leftOut the names of tables that are there and are not looked at, with the reason
     * @throws ZabbetException if two have one name
     * @throws UnknownNameException if a reference names a table or column that is not there
     */
    public Schema(List<Table> tables, boolean enforcesTypes, Map<String, String> leftOut) {
        this.enforcesTypes = enforcesTypes;
        this.leftOut = Collections.unmodifiableMap(new LinkedHashMap<>(leftOut));
        for (Table table : tables) {
            if (this.tables.put(table.name(), table) != null) {
                throw new ZabbetException("Two tables of one schema are named '" + table.name() + "'.");
            }
        }
        for (Table table : tables) {
            for (Reference reference : table.references()) {
                Table target = require(reference.target());
                reference.targetColumns().forEach(target::requireColumn);
            }
        }
        this.storingOrder = StoringOrder.of(this.tables.values());
    }

    /**
     * Reads a schema from Java types: a table for each, a column for each property.
     *
     * <p>{@code StayGuest} becomes table {@code stay_guest}, {@code hutId} becomes column {@code hut_id}. A property
     * {@code id} is the primary key, numbered by the store if it is an {@code int} or {@code long}. {@code hutId} is a
     * reference to {@code hut} if that type is among those given. A property is nullable if it is an
     * {@link Optional} or carries an annotation named {@code Nullable}; all others must have a value. Properties of entities of
     * Jakarta Persistence may be null as that says: unless they are primitive, the key, or marked as required
     * ({@code nullable = false}, {@code optional = false}, {@code @NotNull}). Factories give those a value nevertheless
     * of which nothing is said.
     *
     * @param types records or classes, each once
     * @return the tables
     * @throws ZabbetException if a property's type cannot be kept in a column
     */
    public static Schema of(Class<?>... types) {
        return TypeSchema.read(List.of(types));
    }

    /** {@return the tables in the order in which they were given} */
    public List<Table> tables() {
        return List.copyOf(tables.values());
    }

    /** {@return the names of the tables in the order in which they were given} */
    public List<String> tableNames() {
        return List.copyOf(tables.keySet());
    }

    /** {@return whether the database refuses values that do not fit a column's type: longer text, greater numbers} */
    public boolean enforcesTypes() {
        return enforcesTypes;
    }

    /**
     * Finds a table by the name that a person would write; case does not matter unless two names differ by it.
     *
     * @param name the table's name; case matters only where two names differ in nothing else
     * @return the table; empty if there is none
     */
    public Optional<Table> table(String name) {
        Table exact = tables.get(name);
        if (exact == null) {
            exact = tables.get(name.toLowerCase(Locale.ROOT));
        }
        if (exact != null) {
            return Optional.of(exact);
        }
        List<Table> near = tables.values().stream()
                .filter(t -> t.name().equalsIgnoreCase(name))
                .toList();
        if (near.size() == 1) {
            return Optional.of(near.get(0));
        }
        List<Table> alike = tables.values().stream()
                .filter(t -> Words.alike(t.name().substring(t.name().lastIndexOf('.') + 1), name))
                .toList();
        return alike.size() == 1 ? Optional.of(alike.get(0)) : Optional.empty();
    }

    /**
     * {@return the table of this name}
     *
     * @param name the table's name; case matters only where two names differ in nothing else
     * @throws UnknownNameException if there is none; it suggests the nearest
     * @throws ZabbetException if it is one of those {@linkplain #leftOut left out}
     */
    public Table require(String name) {
        return table(name).orElseThrow(() -> {
            String why = leftOut.get(name);
            return why == null
                    ? new UnknownNameException("table", name, tables.keySet())
                    : new ZabbetException("Table " + name + " is left out: " + why + ".");
        });
    }

    /**
     * {@return the names of tables that are there and are not part of this schema, with the reason: those whose rows are in
     * another database, which need not be meant for tests}
     */
    public Map<String, String> leftOut() {
        return leftOut;
    }

    /** {@return the order in which rows can be stored, with the cycles in it} */
    public StoringOrder storingOrder() {
        return storingOrder;
    }

    /**
     * {@return in what this schema and another differ: tables, columns, keys, references, checks and triggers, in this
     * schema's order; empty if they are alike} Names of keys and references in the database do not count, exact
     * spellings neither.
     *
     * @param other the schema to compare with
     */
    public List<Difference> differencesFrom(Schema other) {
        return Difference.between(this, other);
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Schema that && tables.equals(that.tables);
    }

    @Override
    public int hashCode() {
        return tables.keySet().hashCode();
    }

    @Override
    public String toString() {
        return "Schema" + tables.keySet();
    }
}
