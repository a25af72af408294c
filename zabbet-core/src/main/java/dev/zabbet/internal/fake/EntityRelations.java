package dev.zabbet.internal.fake;

import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Completes an object read from a row: its parents, its collections, and what stands in both. */
final class EntityRelations {
    private final EntityType entity;
    volatile @Nullable List<Bond> bonds;

    EntityRelations(EntityType entity) {
        this.entity = entity;
    }

    /** What a provider would load when it is asked for is there at once. */
    void bringRelations(Object object, Row row, MemoryRows rows, Map<List<Object>, Object> known) {
        if (entity.hasKey(row)) {
            known.put(identity(row), object);
        }
        for (Prop prop : entity.shape.ownProperties()) {
            Column column = entity.columns.get(prop.name());
            Object key = column == null || !prop.isReference() ? null : row.get(column.name());
            EntityType target = key == null ? null : entity.target(prop).orElse(null);
            Row parent = target == null
                    ? null
                    : rows.find(target.table(), Objects.requireNonNull(key)).orElse(null);
            if (target != null && parent != null) {
                Object there = known.get(target.related.identity(parent));
                entity.shape.write(object, prop, there != null ? there : target.object(parent, known));
            }
        }
    }

    /** Collections are read when they are used; the one row that refers to an object is read at once. */
    void bringAssociations(Object object, Row row, MemoryRows rows, Map<List<Object>, Object> known) {
        for (Bond bond : bonds()) {
            Object key = row.get(entity.table.keyColumns().get(0));
            if (key == null || bond.link().isEmpty()) {
                continue;
            }
            Link link = bond.link().get();
            if (bond.association().kind() == Association.Kind.CHILD) {
                List<Object> only = new LinkedRows(bond, rows).read(link, key, known);
                entity.shape.write(object, bond.prop(), only.isEmpty() ? null : only.get(0));
                continue;
            }
            Collection<Object> lazy = LazyCollection.of(
                    bond.prop().type(),
                    () -> ManagedObjects.unflushed(rows, () -> new LinkedRows(bond, rows).read(link, key, known)));
            if (lazy != null) {
                entity.shape.writeWhole(object, bond.prop(), lazy);
            }
        }
    }

    /** An association of the type, with the property that it is and where its rows are. */
    record Bond(Association association, Prop prop, Optional<Link> link) {}

    /** Returns the associations of the type but those to rows that it refers to itself. */
    List<Bond> bonds() {
        List<Bond> known = bonds;
        if (known == null) {
            known = Association.of(entity.type()).stream()
                    .filter(association -> association.kind() != Association.Kind.PARENT)
                    .flatMap(association -> Link.property(entity, association)
                            .map(prop -> new Bond(
                                    association,
                                    prop,
                                    Link.of(entity.type(), association, entity.table, entity.schema)))
                            .stream())
                    .toList();
            bonds = known;
        }
        return known;
    }

    /** Returns the object that stands for a row in a graph, made if it is not known there. */
    Object within(Map<List<Object>, Object> graph, Row row) {
        Object there = entity.hasKey(row) ? graph.get(identity(row)) : null;
        return there == null ? entity.object(row, graph) : there;
    }

    /** Returns what tells a row apart from all others of all tables. */
    List<Object> identity(Row row) {
        List<Object> identity = new ArrayList<>(List.of(entity.table.name()));
        entity.table
                .keyColumns()
                .forEach(column -> identity.add(Objects.requireNonNull(
                        EntityType.canonical(entity.table.requireColumn(column), row.get(column)))));
        return identity;
    }
}
