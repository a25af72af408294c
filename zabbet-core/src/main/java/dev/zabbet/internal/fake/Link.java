package dev.zabbet.internal.fake;

import dev.zabbet.internal.check.PerTable;
import dev.zabbet.internal.mapping.ColumnMapping;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.internal.value.JavaValue;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** In which table and columns the rows are that an association of an entity leads to. */
sealed interface Link {
    /** Rows of the target that refer to the entity by a column. */
    record Below(Table table, String column) implements Link {}

    /**
     * Rows of a table between.
     *
     * @param own the column that refers to the entity
     * @param other the column that refers to the target
     */
    record Between(Table table, String own, String other) implements Link {
        /** Returns the same link as it is seen from the other side. */
        Between turned() {
            String fromThere = other;
            String toHere = own;
            return new Between(table, fromThere, toHere);
        }
    }

    /**
     * Values in a table of their own.
     *
     * @param own the column that refers to the entity
     * @param value the column of a value; empty if each is an object with properties
     */
    record Elements(Table table, String own, Optional<String> value) implements Link {}

    /** What a link is kept under, with its table. */
    record Of(Class<?> type, String property, Schema schema) {}

    /** A link, or none. */
    record Found(Optional<Link> link) {}

    /** Finds the link of an association; empty if the tables have none, or a key of more than one column. */
    static Optional<Link> of(Class<?> type, Association association, Table own, Schema schema) {
        return PerTable.of(
                        own,
                        new Of(type, association.property(), schema),
                        Found.class,
                        () -> new Found(
                                own.keyColumns().size() != 1 ? Optional.empty() : find(association, own, schema)))
                .link();
    }

    private static Optional<Link> find(Association association, Table own, Schema schema) {
        return switch (association.kind()) {
            case PARENT -> Optional.empty();
            case CHILD, CHILDREN -> below(association, own, schema);
            case LINKED -> between(association, own, schema);
            case ELEMENTS -> elements(association, own, schema);
        };
    }

    private static Optional<Link> below(Association association, Table own, Schema schema) {
        Table table = schema.table(TypeShape.tableOf(association.target())).orElse(null);
        if (table == null) {
            return Optional.empty();
        }
        Optional<Column> said = association.mappedBy().isPresent()
                ? property(association.target(), association.mappedBy().get(), table)
                : association.columns().stream().findFirst().flatMap(table::column);
        return said.map(Column::name).or(() -> referring(table, own, 0)).map(column -> new Below(table, column));
    }

    @SuppressWarnings("unchecked")
    private static Optional<Column> property(Class<?> type, String name, Table table) {
        TypeShape<Object> shape = ColumnMapping.laidOut(TypeShape.of((Class<Object>) type), table, Map.of());
        return shape.find(name).flatMap(prop -> ColumnMapping.column(table, prop, Map.of()));
    }

    private static Optional<String> referring(Table from, Table to, int nth) {
        return from.references().stream()
                .filter(reference -> reference.target().equals(to.name())
                        && reference.columns().size() == 1)
                .map(Reference::columns)
                .map(columns -> columns.get(0))
                .skip(nth)
                .findFirst();
    }

    private static Optional<Link> between(Association association, Table own, Schema schema) {
        if (association.mappedBy().isPresent()) {
            String there = association.mappedBy().get();
            Table other = schema.table(TypeShape.tableOf(association.target())).orElse(null);
            return other == null
                    ? Optional.empty()
                    : Association.of(association.target()).stream()
                            .filter(one -> one.property().equals(there))
                            .findFirst()
                            .flatMap(one -> of(association.target(), one, other, schema))
                            .filter(Between.class::isInstance)
                            .map(Between.class::cast)
                            .map(Between::turned);
        }
        Table target = schema.table(TypeShape.tableOf(association.target())).orElse(null);
        Table table = target == null
                ? null
                : association
                        .table()
                        .or(() -> Optional.of(own.name() + "_" + target.name())
                                .filter(name -> schema.table(name).isPresent()))
                        .or(() -> Optional.of(own.name() + "_" + Words.snakeCase(association.property()))
                                .filter(name -> schema.table(name).isPresent()))
                        .flatMap(schema::table)
                        .or(() -> only(own, target, schema))
                        .orElse(null);
        if (target == null || table == null) {
            return Optional.empty();
        }
        Optional<String> ownColumn = association.columns().stream().findFirst().or(() -> referring(table, own, 0));
        Optional<String> other = association.otherColumns().stream()
                .findFirst()
                .or(() -> referring(table, target, target.equals(own) ? 1 : 0));
        return ownColumn.isEmpty() || other.isEmpty()
                ? Optional.empty()
                : Optional.of(new Between(table, ownColumn.get(), other.get()));
    }

    /** Finds the only table that holds nothing but references to two others. */
    private static Optional<Table> only(Table own, Table target, Schema schema) {
        List<Table> candidates = schema.tables().stream()
                .filter(table -> table.columns().size() == 2
                        && referring(table, own, 0).isPresent()
                        && referring(table, target, target.equals(own) ? 1 : 0).isPresent())
                .toList();
        return candidates.size() == 1 ? Optional.of(candidates.get(0)) : Optional.empty();
    }

    private static Optional<Link> elements(Association association, Table own, Schema schema) {
        String name = association.table().orElse(own.name() + "_" + Words.snakeCase(association.property()));
        Table table = schema.table(name).orElse(null);
        if (table == null) {
            return Optional.empty();
        }
        String column = association.columns().stream()
                .findFirst()
                .or(() -> referring(table, own, 0))
                .orElse(own.name() + "_id");
        boolean structured = table.columns().size() > 2 && !isPlain(association.target());
        Optional<String> value = structured
                ? Optional.empty()
                : association.otherColumns().stream().findFirst().or(() -> table.columns().stream()
                        .map(Column::name)
                        .filter(one -> !one.equals(column))
                        .findFirst());
        return Optional.of(new Elements(table, column, value));
    }

    private static boolean isPlain(Class<?> element) {
        return JavaValue.kindOf(element) != Kind.OTHER;
    }

    /** Returns the property of an entity that an association is. */
    static Optional<Prop> property(EntityType entity, Association association) {
        return entity.shape().ownProperties().stream()
                .filter(prop -> prop.name().equals(association.property()))
                .findFirst();
    }
}
