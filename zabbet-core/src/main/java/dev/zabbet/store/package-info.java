/**
 * Where rows live: the {@link dev.zabbet.store.Store} that every home of rows implements, and the one in memory.
 *
 * <p>The one rule: a store holds rows and tells what changed; it decides nothing. Which rows to store, and whether they
 * are the right ones, is settled above it.
 *
 * <pre>{@code
 * MemoryStore store = new MemoryStore(Schema.of(Hut.class), Clock.systemUTC());
 * Table hut = store.schema().require("hut");
 * Watch watch = store.watch();
 * store.insert(hut, Row.row("name", "Edelgrat"));
 * watch.changes().forEach(System.out::println);
 * }</pre>
 */
@NullMarked
package dev.zabbet.store;

import org.jspecify.annotations.NullMarked;
