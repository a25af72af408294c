package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.internal.plan.Plan;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.plan.StoreView;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Store;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** Plans rows over what is stored, and plans again if the store turns out to hold something else. */
final class Planning {
    /** Maximum number of retries when another session takes a reserved key. */
    private static final int MOST_TRIES = 20;

    private final Store store;
    private final StageClock clock;
    private final LongSupplier variation;
    final StoreView ground;
    private final StoreView trusted;
    private boolean trusting; // the last plan took it that no stored row has a key that it made
    private boolean carefully; // the next plan looks

    Planning(Store store, StageClock clock, LongSupplier variation) {
        this.store = store;
        this.clock = clock;
        this.variation = variation;
        this.ground = StoreView.of(store);
        this.trusted = StoreView.of(store, true);
    }

    /**
     * Tries again what failed, if it was because the tables have been changed since they were read, or another has taken a
     * key that was reserved. A key that is refused twice was not reserved but asked for.
     */
    <V> V upToDate(Supplier<V> work) {
        synchronized (store) { // from reserving keys to storing rows with them
            Object lost = null;
            carefully = false;
            trusting = false;
            for (int tries = 1; ; tries++) {
                try {
                    return work.get();
                } catch (ZabbetException e) {
                    if (trusting && !carefully && e instanceof ConstraintException refused && store.isTwin(refused)) {
                        carefully = true; // by rows that are like stored ones, perhaps
                        tries--;
                        continue;
                    }
                    Object before = lost;
                    lost = e instanceof ConstraintException refused ? lostKey(refused) : null;
                    boolean another = lost != null && tries < MOST_TRIES && !lost.equals(before);
                    if (!another && (tries > 1 || !store.readAgain())) {
                        throw e;
                    }
                }
            }
        }
    }

    /** Returns the key of a refused row if it is that of a row which is stored, and others may take keys; null if not. */
    private @Nullable Object lostKey(ConstraintException refused) {
        Table table = store.schema().table(refused.table()).orElse(null);
        Column numbered = table == null ? null : table.numberedColumn().orElse(null);
        if (table == null || numbered == null || !store.sharesKeys(table)) {
            return null;
        }
        Object key = refused.row().map(row -> row.get(numbered.name())).orElse(null);
        return key != null && store.holds(table, new Condition.Equal(numbered.name(), key)) ? key : null;
    }

    Plan plan(int count, Factory<?> factory) {
        trusting = !carefully;
        return plan(count, factory, carefully ? ground : trusted);
    }

    Plan plan(int count, Factory<?> factory, StoreView on) {
        return Plan.of(store.schema(), variation.getAsLong(), clock, count, Recipe.of(factory), on);
    }
}
