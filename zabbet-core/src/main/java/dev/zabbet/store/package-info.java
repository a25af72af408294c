/**
 * Where rows live: the {@link dev.zabbet.store.Store} that every home of rows implements, and what it is asked and answers.
 *
 * <p>The one rule: a store holds rows and reports what changed; it decides nothing. Which rows to store, and whether they
 * are the right ones, is settled above it.
 *
 * <pre>{@code
 * import dev.zabbet.store.Store;
 * import dev.zabbet.store.Watch;
 *
 * Store store = stage.store();
 * Watch watch = store.watch();
 * stage.add("hut");
 * watch.changes().forEach(System.out::println);
 * }</pre>
 */
@NullMarked
package dev.zabbet.store;

import org.jspecify.annotations.NullMarked;
