package dev.zabbet.schema;

import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.type.Kind;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The tables that an entity has beside its own: those between it and others, and those of its elements. Their names are those
 * of Jakarta Persistence 3.1, 11.1.8 and 11.1.27, written as Spring's naming strategy does.
 */
final class AssociationTables {
    private final Table own;
    private final Class<?> type;
    private final List<Table> tables;

    AssociationTables(String own, Class<?> type, List<Table> tables) {
        this.own = find(own, tables).orElseThrow();
        this.type = type;
        this.tables = tables;
    }

    private static Optional<Table> find(String name, List<Table> tables) {
        return tables.stream().filter(table -> table.name().equals(name)).findFirst();
    }

    /** Adds the tables, and to the tables of others the columns that only this entity knows of. */
    void addTo(List<Table> between) {
        if (own.keyColumns().size() != 1) {
            return;
        }
        for (Association association : Association.of(type)) {
            boolean owning = association.mappedBy().isEmpty();
            switch (association.kind()) {
                case LINKED -> {
                    if (owning) {
                        linking(association).ifPresent(table -> add(table, between));
                    }
                }
                case ELEMENTS -> elements(association).ifPresent(table -> add(table, between));
                case CHILDREN -> {
                    if (owning) {
                        addColumn(association);
                    }
                }
                case PARENT, CHILD -> {}
            }
        }
    }

    /** What subclasses have from one class is added with the first of them. */
    private static void add(Table table, List<Table> between) {
        if (find(table.name(), between).isEmpty()) {
            between.add(table);
        }
    }

    private Optional<Table> linking(Association association) {
        return find(TypeShape.tableOf(association.target()), tables)
                .filter(target -> target.keyColumns().size() == 1)
                .map(target -> {
                    String name = association.table().orElse(own.name() + "_" + target.name());
                    Column first = referring(own, first(association.columns()).orElse(own.name() + "_id"));
                    Column second = referring(
                            target,
                            first(association.otherColumns()).orElse(Words.snakeCase(association.property()) + "_id"));
                    return table(
                            name,
                            List.of(first, second),
                            List.of(reference(name, first, own), reference(name, second, target)));
                });
    }

    private Optional<Table> elements(Association association) {
        String name = association.table().orElse(own.name() + "_" + Words.snakeCase(association.property()));
        Column owner = referring(own, first(association.columns()).orElse(own.name() + "_id"));
        List<Column> columns = new ArrayList<>(List.of(owner));
        Class<?> element = association.target();
        if (Map.class.isAssignableFrom(element)) {
            return Optional.empty();
        }
        if (JavaValue.kindOf(element) == Kind.OTHER) {
            TypeShape<?> shape = TypeShape.of(element);
            for (Prop prop : shape.properties()) {
                columns.add(TypeSchema.column(element, prop, shape.columnType(prop)));
            }
        } else {
            Prop value = new Prop(
                    association.property(),
                    element,
                    element,
                    false,
                    true,
                    association.otherColumns().stream().findFirst(),
                    Optional.empty());
            columns.add(TypeSchema.column(type, value, element));
        }
        return Optional.of(table(name, columns, List.of(reference(name, owner, own))));
    }

    /** The rows of the target refer to this entity by a column that their own class does not have. */
    private void addColumn(Association association) {
        Table target = find(TypeShape.tableOf(association.target()), tables).orElse(null);
        String name = first(association.columns()).orElse(own.name() + "_id");
        if (target == null || target.column(name).isPresent()) {
            return;
        }
        Column plain = referring(own, name);
        Column column =
                new Column(plain.name(), plain.sqlName(), plain.type(), true, Optional.empty(), Generation.NONE);
        List<Column> columns = new ArrayList<>(target.columns());
        columns.add(column);
        List<Reference> references = new ArrayList<>(target.references());
        references.add(reference(target.name(), column, own));
        tables.set(
                tables.indexOf(target),
                new Table(
                        target.name(),
                        "",
                        target.name(),
                        columns,
                        target.primaryKey(),
                        List.of(),
                        references,
                        List.of(),
                        TableNature.PLAIN));
    }

    private static Optional<String> first(List<String> names) {
        return names.stream().findFirst();
    }

    private static Column referring(Table target, String name) {
        Column key = target.requireColumn(target.keyColumns().get(0));
        return new Column(name, name, key.type(), false, Optional.empty(), Generation.NONE);
    }

    private static Reference reference(String table, Column column, Table target) {
        return new Reference(table + "_" + column.name(), List.of(column.name()), target.name(), target.keyColumns());
    }

    private static Table table(String name, List<Column> columns, List<Reference> references) {
        return new Table(
                name, "", name, columns, Optional.empty(), List.of(), references, List.of(), TableNature.PLAIN);
    }
}
