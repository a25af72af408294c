package dev.zabbet.internal.fake;

import java.util.AbstractList;
import java.util.AbstractSet;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Iterator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** A collection of an entity whose rows are read when it is used first, as a provider's are. Changes stay in it. */
interface LazyCollection {
    /** Returns the elements, which may not have been read. */
    Elements<?> elements();

    /** Tells whether it has been used. */
    default boolean isLoaded() {
        return elements().isLoaded();
    }

    /** Exchanges its elements, whether or not they have been read. */
    default void exchange(Function<Object, Object> with) {
        elements().exchange(with);
    }

    /** Makes one for a property; null if its type is none that can be read lazily. */
    static @Nullable Collection<Object> of(Class<?> property, Supplier<List<Object>> rows) {
        if (property.isAssignableFrom(Listed.class)) {
            return new Listed(rows);
        }
        if (property.isAssignableFrom(Unordered.class)) {
            return new Unordered(rows);
        }
        return null;
    }

    /** A list. */
    final class Listed extends AbstractList<Object> implements LazyCollection {
        private final Elements<List<Object>> elements;

        Listed(Supplier<List<Object>> rows) {
            elements = new Elements<>(rows, ArrayList::new);
        }

        @Override
        public Object get(int index) {
            return elements.get().get(index);
        }

        @Override
        public int size() {
            return elements.get().size();
        }

        @Override
        public Object set(int index, Object element) {
            return elements.get().set(index, element);
        }

        @Override
        public void add(int index, Object element) {
            elements.get().add(index, element);
        }

        @Override
        public Object remove(int index) {
            return elements.get().remove(index);
        }

        @Override
        public Elements<List<Object>> elements() {
            return elements;
        }
    }

    /** A set. */
    final class Unordered extends AbstractSet<Object> implements LazyCollection {
        private final Elements<Set<Object>> elements;

        Unordered(Supplier<List<Object>> rows) {
            elements = new Elements<>(rows, LinkedHashSet::new);
        }

        @Override
        public Iterator<Object> iterator() {
            return elements.get().iterator();
        }

        @Override
        public int size() {
            return elements.get().size();
        }

        @Override
        public boolean contains(@Nullable Object element) {
            return elements.get().contains(element);
        }

        @Override
        public boolean add(Object element) {
            return elements.get().add(element);
        }

        @Override
        public boolean remove(@Nullable Object element) {
            return elements.get().remove(element);
        }

        @Override
        public Elements<Set<Object>> elements() {
            return elements;
        }
    }

    /** The elements, from when they are asked for. */
    final class Elements<C extends Collection<Object>> {
        private final Supplier<List<Object>> rows;
        private final Function<List<Object>, C> made;
        private @Nullable Function<Object, Object> later;
        private @Nullable C loaded;

        Elements(Supplier<List<Object>> rows, Function<List<Object>, C> made) {
            this.rows = rows;
            this.made = made;
        }

        C get() {
            C known = loaded;
            if (known == null) {
                Function<Object, Object> with = later;
                List<Object> read = rows.get();
                known = made.apply(with == null ? read : read.stream().map(with).toList());
                loaded = known;
            }
            return known;
        }

        boolean isLoaded() {
            return loaded != null;
        }

        void exchange(Function<Object, Object> with) {
            C known = loaded;
            if (known == null) {
                later = with;
                return;
            }
            List<Object> others = known.stream().map(with).toList();
            known.clear();
            known.addAll(others);
        }
    }
}
