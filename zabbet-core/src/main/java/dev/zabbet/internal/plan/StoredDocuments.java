package dev.zabbet.internal.plan;

import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Store;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.WeakHashMap;
import java.util.function.BiConsumer;

/** What the documents of a store's columns look like, where a test says so. Thread-safe. */
public final class StoredDocuments {
    private static final Map<Store, StoredDocuments> ALL = new WeakHashMap<>();

    private final Map<String, Map<String, DocumentRecipe>> columns = new LinkedHashMap<>();

    private StoredDocuments() {}

    public static StoredDocuments of(Store store) {
        synchronized (ALL) {
            return ALL.computeIfAbsent(store, any -> new StoredDocuments());
        }
    }

    public synchronized void put(Table table, Column column, DocumentRecipe documents) {
        columns.computeIfAbsent(table.name(), any -> new LinkedHashMap<>()).put(column.name(), documents);
    }

    /** Notes what is said now, and returns what brings that back. */
    public synchronized Runnable mark() {
        Map<String, Map<String, DocumentRecipe>> then = new LinkedHashMap<>();
        columns.forEach((table, documents) -> then.put(table, Map.copyOf(documents)));
        return () -> bringBack(then);
    }

    private synchronized void bringBack(Map<String, Map<String, DocumentRecipe>> then) {
        columns.clear();
        then.forEach((table, documents) -> columns.put(table, new LinkedHashMap<>(documents)));
    }

    public synchronized Optional<DocumentRecipe> of(Table table, Column column) {
        return Optional.ofNullable(columns.getOrDefault(table.name(), Map.of()).get(column.name()));
    }

    /** Calls {@code work} for each column of a table of which something is said. */
    public synchronized void each(Table table, BiConsumer<Column, DocumentRecipe> work) {
        Map.copyOf(columns.getOrDefault(table.name(), Map.of()))
                .forEach((name, documents) -> table.column(name).ifPresent(column -> work.accept(column, documents)));
    }
}
