package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.check.CheckCondition;
import dev.zabbet.internal.type.EntityMapping;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Reference;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.type.Kind;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** What a factory says of a node's table: settings by column, restrictions, and how parents are made. */
final class NodeRecipe {
    private final Node node;

    NodeRecipe(Node node) {
        this.node = node;
    }

    /**
     * Returns references that the application knows and the schema does not check: to classes that have a table for each
     * subclass, for example, or where a database is told to leave them unchecked.
     */
    List<Reference> uncheckedReferences(Schema schema) {
        List<Reference> references = new ArrayList<>();
        for (int at = 0; at < node.table.columns().size(); at++) {
            String column = node.table.columns().get(at).name();
            if (isUncheckedReference(at)) {
                node.propertyAt(at, Prop::isReference)
                        .flatMap(prop -> EntityMapping.concrete(prop.type()))
                        .flatMap(type -> schema.table(TypeShape.tableOf(type)))
                        .filter(target -> target.keyColumns().size() == 1)
                        .ifPresent(target -> references.add(new Reference(
                                node.table.name() + "." + column,
                                List.of(column),
                                target.name(),
                                target.keyColumns())));
            }
        }
        return references;
    }

    /** Tells whether a column refers to objects of the application, and no reference of the schema says to which rows. */
    boolean isUncheckedReference(int position) {
        String column = node.table.columns().get(position).name();
        return node.table.referencesOf(column).isEmpty()
                && node.shape()
                        .filter(TypeShape::isEntity)
                        .flatMap(shape -> node.propertyAt(position, Prop::isReference))
                        .isPresent();
    }

    /**
     * Tells whether the parents that a reference leads to are whole objects: a row of an abstract class whose subclasses have
     * tables of their own is none.
     */
    boolean hasWholeParents(Reference reference, Table target) {
        return node.shape()
                .filter(TypeShape::isEntity)
                .flatMap(shape -> node.propertyAt(
                        node.table.requirePosition(reference.columns().get(0)),
                        prop -> prop.isReference()
                                && Modifier.isAbstract(prop.type().getModifiers())))
                .map(prop -> EntityMapping.concrete(prop.type())
                        .filter(type -> TypeShape.tableOf(type).equalsIgnoreCase(target.name())
                                || TypeShape.of(type).above(target.name()).isPresent())
                        .isPresent())
                .orElse(true);
    }

    /** Finds the table of a superclass that keeps a property. */
    private Optional<String> above(String property) {
        return node.shape().flatMap(shape -> shape.above().entrySet().stream()
                .filter(entry -> entry.getValue().containsKey(property))
                .map(Map.Entry::getKey)
                .findFirst());
    }

    /** Returns the factory of rows in the table of a superclass, with what this node's factory says of their columns. */
    private Optional<Recipe<?>> joined(Reference reference, Table target, Schema schema) {
        TypeShape<?> shape = node.shape().orElse(null);
        if (shape == null
                || shape.above(target.name()).isEmpty()
                || !reference.columns().equals(node.table.keyColumns())) {
            return Optional.empty();
        }
        Recipe<?> joined = joined(shape, target, node.factory.isFilled(), schema);
        Map<String, String> columns = shape.above(target.name()).orElseThrow();
        for (Map.Entry<String, Setting> setting : node.factory.settings().entrySet()) {
            String column = columns.get(setting.getKey());
            if (column != null) {
                joined = joined.with(column, setting.getValue());
            }
        }
        return Optional.of(joined);
    }

    private static List<Object> ordinals(Class<?> constants) {
        List<Object> ordinals = new ArrayList<>();
        for (int i = 0; i < constants.getEnumConstants().length; i++) {
            ordinals.add((long) i);
        }
        return ordinals;
    }

    /** Returns what a column in the table of a superclass is given that refers to an object. */
    private static Setting parent(Prop prop, Column column, Table target, boolean filled, Schema schema) {
        Class<?> made = EntityMapping.concrete(prop.type()).orElse(null);
        Reference reference =
                target.referencesOf(column.name()).stream().findFirst().orElse(null);
        if (column.nullable() && !filled) {
            return new Setting.Fixed(null);
        }
        if (made != null && reference != null) {
            if (reference.target().equalsIgnoreCase(TypeShape.tableOf(made))) {
                return new Setting.Parent(Recipe.ofType(made).inTable(reference.target()));
            }
            TypeShape<?> below = TypeShape.of(made);
            if (below.above(reference.target()).isPresent()) {
                return new Setting.Parent(joined(below, schema.require(reference.target()), false, schema)
                        .withChild(Recipe.ofType(made)));
            }
        }
        return column.nullable() ? new Setting.Fixed(null) : new Setting.MadeAnyway();
    }

    /** Returns the factory of rows in the table of a superclass that objects of a class have there. */
    private static Recipe<?> joined(TypeShape<?> shape, Table target, boolean filled, Schema schema) {
        Recipe<?> joined = Recipe.ofTable(target.name());
        for (Map.Entry<String, String> property :
                shape.above(target.name()).orElseThrow().entrySet()) {
            Prop prop = shape.find(property.getKey()).orElse(null);
            Column column = target.column(property.getValue()).orElse(null);
            if (prop == null || column == null || target.keyColumns().contains(column.name())) {
                continue;
            }
            List<Object> some = prop.type().isEnum() && column.type().kind() == Kind.INTEGER
                    ? ordinals(prop.type())
                    : shape.some(prop);
            if (prop.isReference()) {
                joined = joined.with(column.name(), parent(prop, column, target, filled, schema));
            } else if (!some.isEmpty() && (filled || !column.nullable())) {
                joined = joined.with(column.name(), new Setting.InTurn(new ArrayList<>(some)));
            } else if (prop.type().isPrimitive() && column.nullable()) {
                joined = joined.with(column.name(), new Setting.MadeAnyway());
            }
        }
        return joined;
    }

    /** Returns the factory of the parents that a reference of this node leads to, if nothing else is said of them. */
    Recipe<?> parents(Reference reference, Table target, Schema schema) {
        Optional<Recipe<?>> joined = joined(reference, target, schema);
        if (joined.isPresent()) {
            return joined.get();
        }
        Recipe<?> plain = Recipe.ofTable(target.name());
        Class<?> type = node.shape()
                .filter(TypeShape::isEntity)
                .flatMap(shape -> node.propertyAt(
                        node.table.requirePosition(reference.columns().get(0)),
                        prop -> prop.isReference()
                                && Stream.concat(Stream.of(prop.type()), EntityMapping.concrete(prop.type()).stream())
                                        .anyMatch(one -> TypeShape.tableOf(one).equalsIgnoreCase(target.name()))))
                .<Class<?>>map(Prop::type)
                .orElse(null);
        if (type == null) {
            return plain;
        }
        Class<?> made = EntityMapping.concrete(type).orElse(null);
        if (made != null && TypeShape.tableOf(made).equalsIgnoreCase(target.name())) {
            return Recipe.ofType(made).inTable(target.name());
        }
        if (made == null) {
            return plain;
        }
        TypeShape<?> below = TypeShape.of(made);
        return below.above(target.name()).isPresent()
                ? joined(below, target, node.factory.isFilled(), schema).withChild(Recipe.ofType(made))
                : plain;
    }

    /**
     * Returns what the factory says, without what a copied object holds and the table has no column for.
     *
     * @throws ZabbetException if something is said of a part of what a column keeps whole
     */
    Map<String, Setting> settings() {
        if (node.factory.shape().isEmpty()) {
            return node.factory.settings();
        }
        Map<String, Setting> settings = new LinkedHashMap<>();
        node.factory.settings().forEach((name, setting) -> {
            if (setting instanceof Setting.Copied copied) {
                Object value = copied.value();
                boolean parent = value != null
                        && node.shape()
                                .flatMap(shape -> shape.find(name))
                                .filter(prop ->
                                        prop.isReference() && prop.type().isInstance(value))
                                .isPresent();
                if (node.position(name) >= 0) {
                    settings.put(name, parent ? new Setting.Parents(List.of(value)) : new Setting.Fixed(value));
                }
                return;
            }
            if (above(name).isEmpty()) {
                settings.put(name, setting);
            }
        });
        node.shape().ifPresent(shape -> shape.fixed().forEach((column, value) -> {
            if (settings.keySet().stream().noneMatch(name -> node.position(name) == node.position(column))) {
                settings.put(column, new Setting.Fixed(value));
            }
        }));
        return settings;
    }

    /** Returns what has to hold for a provider to find the rows, as far as nothing is said of its columns. */
    List<CheckCondition> restrictions() {
        String text = node.factory.shape().flatMap(TypeShape::restriction).orElse(null);
        if (text == null) {
            return List.of();
        }
        Set<Integer> said = settings().keySet().stream().map(node::position).collect(Collectors.toSet());
        return CheckCondition.required(node.table, new Check("restriction of " + node.table.name(), text)).stream()
                .filter(part -> part.columns().stream().noneMatch(column -> said.contains(node.table.position(column))))
                .toList();
    }
}
