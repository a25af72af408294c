package dev.zabbet.internal.fake;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.type.Association;
import dev.zabbet.internal.type.Prop;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.store.Condition;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What storing or deleting an entity does to the rows that it belongs together with, as Jakarta Persistence 3.1, 3.2.2 to 3.2.4
 * and 2.9 say it: persisting, merging and removing are passed on where the association says so, orphans are deleted, tables
 * between and those of elements follow their collections.
 */
final class Cascades {
    private final MemoryRows store;
    private final Set<Object> seen = Collections.newSetFromMap(new IdentityHashMap<>());

    /** Stores one object with all that it passes the storing on to. */
    interface Storing {
        /**
         * Stores it.
         *
         * @param also columns that the row gets besides those of the object's properties
         */
        void store(EntityType type, Object object, Map<String, Object> also) throws StaleObjectException;
    }

    Cascades(MemoryRows store) {
        this.store = store;
    }

    /** Tells whether anything but its own row is stored or deleted with an entity. */
    static boolean concerns(EntityType type) {
        return type.shape().isEntity()
                && (!Association.of(type.type()).isEmpty()
                        || !type.shape().above().isEmpty());
    }

    /** Tells whether an object is come to for the first time. */
    boolean isFirst(Object object) {
        return seen.add(object);
    }

    /**
     * Stores what a new or changed object refers to, where that is passed on.
     *
     * @throws ZabbetException if it refers to an object that has not been stored, and storing it is not passed on
     */
    void storeParents(EntityType type, Object object, Storing storing) throws StaleObjectException {
        for (Association association : Association.of(type.type())) {
            Prop prop = association.kind() == Association.Kind.PARENT
                    ? Link.property(type, association).filter(Prop::isReference).orElse(null)
                    : null;
            Object parent = prop == null ? null : type.shape().read(object, prop);
            EntityType target = prop == null ? null : type.target(prop).orElse(null);
            if (parent == null || target == null || !target.type().isInstance(parent)) {
                continue;
            }
            if (association.passesOn("PERSIST") || association.passesOn("MERGE")) {
                if (isFirst(parent)) {
                    storing.store(target, parent, Map.of());
                }
            } else if (type.shape().readStored(object, Objects.requireNonNull(prop)) == null) {
                throw new ZabbetException(type.type().getSimpleName() + "." + association.property() + " refers to a "
                        + target.type().getSimpleName()
                        + " that has not been stored, and storing is not passed on to it:"
                        + " store it before, or map the relation with cascade = PERSIST.");
            }
        }
    }

    /**
     * Stores what belongs to an object that is stored itself, and deletes what no longer does.
     *
     * @return whether a collection that the entity owns has changed, which is a change of the entity
     */
    boolean storeChildren(EntityType type, Object object, Storing storing) throws StaleObjectException {
        boolean changed = false;
        for (EntityRelations.Bond bond : type.related.bonds()) {
            Object held = type.shape().read(object, bond.prop());
            boolean unread = held instanceof LazyCollection lazy && !lazy.isLoaded();
            boolean several = bond.association().kind() != Association.Kind.CHILD;
            if (unread || (several && !(held instanceof Collection<?>))) {
                continue;
            }
            List<Object> elements = new ArrayList<>();
            if (held instanceof Collection<?> collection) {
                collection.stream().filter(Objects::nonNull).forEach(elements::add);
            } else if (held != null) {
                elements.add(held);
            }
            Object key = type.shape().read(object, type.key().get(0));
            Link link = bond.link().orElse(null);
            if (link == null) {
                refuseLoss(type, bond, elements);
            } else {
                changed |= storeLinked(bond, link, Objects.requireNonNull(key), elements, storing);
            }
        }
        return changed;
    }

    /** What only a table that is not there could keep would be lost. */
    private void refuseLoss(EntityType type, EntityRelations.Bond bond, List<Object> elements) {
        if (!elements.isEmpty() && bond.association().kind() == Association.Kind.LINKED) {
            throw new ZabbetException(type.type().getSimpleName() + "."
                    + bond.prop().name() + " holds "
                    + elements.size() + " " + bond.association().target().getSimpleName()
                    + ", and no table keeps which, so that it would be lost. Read the schema from the application's DDL,"
                    + " or define what the method does: stage.define(…).");
        }
    }

    private boolean storeLinked(
            EntityRelations.Bond bond, Link link, Object key, List<Object> elements, Storing storing)
            throws StaleObjectException {
        Association association = bond.association();
        LinkedRows rows = new LinkedRows(bond, store);
        if (link instanceof Link.Elements values) {
            return rows.replaceElements(values, key, elements);
        }
        EntityType target = rows.target();
        boolean changed = false;
        boolean columnHere =
                link instanceof Link.Below && association.mappedBy().isEmpty();
        for (Object element : elements) {
            boolean passed = association.passesOn("PERSIST") || association.passesOn("MERGE");
            if (passed && isFirst(element)) {
                Map<String, Object> also =
                        link instanceof Link.Below below && columnHere ? Map.of(below.column(), key) : Map.of();
                storing.store(EntityType.of(element.getClass(), store), element, also);
            }
        }
        if (link instanceof Link.Between between && association.mappedBy().isEmpty()) {
            changed = rows.replaceLinks(between, key, keysOf(bond, target, elements));
        } else if (link instanceof Link.Below below) {
            List<Object> kept = columnHere || association.orphanRemoval() ? keysOf(bond, target, elements) : List.of();
            if (columnHere) {
                Condition own = new Condition.Equal(below.column(), key);
                for (Object one : kept) {
                    if (!store.holds(target.table(), keyIs(target, one).and(own))) {
                        changed |= store.update(target.table(), keyIs(target, one), Row.row(below.column(), key)) > 0;
                    }
                }
            }
            if (columnHere || association.orphanRemoval()) {
                boolean released = release(target, below, key, kept, association.orphanRemoval());
                changed |= columnHere && released;
            }
        }
        return changed;
    }

    private List<Object> keysOf(EntityRelations.Bond bond, EntityType target, List<Object> elements) {
        List<Object> keys = new ArrayList<>();
        for (Object element : elements) {
            Object key = target.shape().read(element, target.key().get(0));
            if (key == null) {
                throw new ZabbetException(bond.association().property() + " holds a "
                        + target.type().getSimpleName()
                        + " that has not been stored, and storing is not passed on to it:"
                        + " store it before, or map the relation with cascade = PERSIST.");
            }
            keys.add(key);
        }
        return keys;
    }

    /** Lets go of the rows that no longer belong to an entity. */
    private boolean release(EntityType target, Link.Below below, Object key, List<Object> kept, boolean orphans) {
        boolean released = false;
        for (Row row : store.rows(below.table(), new Condition.Equal(below.column(), key))) {
            Object own =
                    Objects.requireNonNull(row.get(target.table().keyColumns().get(0)));
            if (kept.contains(own)) {
                continue;
            }
            if (orphans) {
                delete(target, row);
            } else {
                store.update(target.table(), target.keyOf(row), Row.row(below.column(), null));
            }
            released = true;
        }
        return released;
    }

    private static Condition keyIs(EntityType type, Object key) {
        Column column = type.table().requireColumn(type.table().keyColumns().get(0));
        return new Condition.Equal(column.name(), EntityType.canonical(column, key));
    }

    /** Deletes the row of an entity, with those that the deletion is passed on to. */
    int delete(EntityType type, Row row) {
        List<Row> parents = new ArrayList<>();
        List<EntityType> parentTypes = new ArrayList<>();
        for (Association association : Association.of(type.type())) {
            if (association.kind() == Association.Kind.PARENT
                    && (association.passesOn("REMOVE") || association.orphanRemoval())) {
                findParent(type, association, row).ifPresent(parent -> {
                    parents.add(parent.row());
                    parentTypes.add(parent.type());
                });
            }
        }
        for (EntityRelations.Bond bond : type.related.bonds()) {
            bond.link().ifPresent(link -> deleteLinked(bond, link, row, type));
        }
        Row deletion = type.softDeletion().orElse(null);
        int deleted = deletion == null
                ? store.delete(type.table(), type.keyOf(row))
                : store.update(type.table(), type.keyOf(row), deletion);
        if (deletion == null) {
            type.deleteAbove(row);
        }
        for (int i = 0; i < parents.size(); i++) {
            delete(parentTypes.get(i), parents.get(i));
        }
        return deleted;
    }

    /** Deletes the rows that stand between an entity and others, and those of its elements. */
    void deleteBetween(EntityType type, Row row) {
        for (EntityRelations.Bond bond : type.related.bonds()) {
            Link link = bond.link().orElse(null);
            Object key = row.get(type.table().keyColumns().get(0));
            if (link instanceof Link.Elements elements) {
                store.delete(elements.table(), new Condition.Equal(elements.own(), key));
            } else if (link instanceof Link.Between between) {
                store.delete(between.table(), new Condition.Equal(between.own(), key));
            }
        }
    }

    private record Parent(EntityType type, Row row) {}

    private Optional<Parent> findParent(EntityType type, Association association, Row row) {
        Prop prop = Link.property(type, association).orElse(null);
        Column column = prop == null ? null : type.columnOf(prop).orElse(null);
        EntityType target = prop == null ? null : type.target(prop).orElse(null);
        @Nullable Object key = column == null ? null : row.get(column.name());
        return target == null || key == null
                ? Optional.empty()
                : store.find(target.table(), key).map(found -> new Parent(target, found));
    }

    private void deleteLinked(EntityRelations.Bond bond, Link link, Row row, EntityType type) {
        Object key = Objects.requireNonNull(row.get(type.table().keyColumns().get(0)));
        Association association = bond.association();
        boolean passed = association.passesOn("REMOVE") || association.orphanRemoval();
        if (link instanceof Link.Elements elements) {
            store.delete(elements.table(), new Condition.Equal(elements.own(), key));
            return;
        }
        EntityType target = new LinkedRows(bond, store).target();
        if (link instanceof Link.Below below && passed) {
            store.rows(below.table(), new Condition.Equal(below.column(), key)).forEach(one -> delete(target, one));
        } else if (link instanceof Link.Below below && association.mappedBy().isEmpty()) {
            store.update(below.table(), new Condition.Equal(below.column(), key), Row.row(below.column(), null));
        } else if (link instanceof Link.Between between
                && association.mappedBy().isEmpty()) {
            List<Row> links = store.rows(between.table(), new Condition.Equal(between.own(), key));
            store.delete(between.table(), new Condition.Equal(between.own(), key));
            if (passed) {
                links.forEach(one -> store.find(target.table(), Objects.requireNonNull(one.get(between.other())))
                        .ifPresent(other -> delete(target, other)));
            }
        }
    }
}
