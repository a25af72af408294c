package dev.zabbet.internal.story;

import dev.zabbet.store.Store;
import java.util.Collections;
import java.util.Map;
import java.util.WeakHashMap;
import org.jspecify.annotations.Nullable;

/**
 * Finds the story that is told of a stage: by its store, which all views of a stage share, or by the thread for a stage that a
 * test opened itself. Thread-safe.
 */
public final class Stories {
    private static final Map<Store, Story> BY_STORE = Collections.synchronizedMap(new WeakHashMap<>());
    private static final ThreadLocal<@Nullable Story> BY_THREAD = new ThreadLocal<>();

    private Stories() {}

    /** Returns the story that is told of a store's stage now; null if none is. */
    public static @Nullable Story of(Store store) {
        Story story = BY_STORE.isEmpty() ? null : BY_STORE.get(store);
        return story == null ? BY_THREAD.get() : story;
    }

    /** Returns the story that is told on this thread; null if none is. */
    public static @Nullable Story here() {
        return BY_THREAD.get();
    }

    /** Has a story told on this thread from now on. */
    public static void begin(Story story) {
        BY_THREAD.set(story);
    }

    /** Has a story told of a store's stage from now on, whatever the thread. */
    public static void begin(Story story, Store store) {
        BY_STORE.put(store, story);
    }

    /** Does something on this thread of which no story is told. */
    public static void untold(Store store, Runnable work) {
        Story told = BY_STORE.remove(store);
        Story here = BY_THREAD.get();
        BY_THREAD.remove();
        try {
            work.run();
        } finally {
            if (told != null) {
                BY_STORE.put(store, told);
            }
            if (here != null) {
                BY_THREAD.set(here);
            }
        }
    }

    /** Ends a story, on this thread and of all stores. */
    public static void end(Story story) {
        BY_STORE.values().removeIf(told -> told == story);
        if (BY_THREAD.get() == story) {
            BY_THREAD.remove();
        }
    }
}
