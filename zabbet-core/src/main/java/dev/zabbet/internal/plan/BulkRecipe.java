package dev.zabbet.internal.plan;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * What a bulk says, as the planner reads it.
 *
 * @param batches the rows of each table, in the order named
 * @param filled whether optional columns are filled too
 * @param part which part of it, from 1
 * @param parts how many parts there are, 1 for all
 */
public record BulkRecipe(List<Batch> batches, boolean filled, int part, int parts) {
    private static volatile @Nullable Function<Object, BulkRecipe> opener;

    /** So many rows of a factory. */
    public record Batch(int count, Recipe<?> recipe) {}

    public BulkRecipe {
        batches = List.copyOf(batches);
    }

    /** Says how a bulk's recipe is read: only its class can see it. Called once, by that class. */
    public static void openBy(Function<Object, BulkRecipe> way) {
        opener = way;
    }

    /** Returns the recipe of a {@code Bulk}. */
    public static BulkRecipe of(Object bulk) {
        Function<Object, BulkRecipe> way = opener;
        if (way == null) {
            throw new IllegalStateException("no bulk was made yet");
        }
        return way.apply(bulk);
    }

    public BulkRecipe and(Batch more) {
        List<Batch> all = new ArrayList<>(batches);
        all.add(more);
        return new BulkRecipe(all, filled, part, parts);
    }

    public BulkRecipe withAllFilled() {
        return new BulkRecipe(batches, true, part, parts);
    }

    public BulkRecipe ofPart(int number, int of) {
        return new BulkRecipe(batches, filled, number, of);
    }

    /** Returns {@code hut=3 stay=200, part 2/4}. */
    @Override
    public String toString() {
        return batches.stream()
                        .map(batch -> batch.recipe().table() + "=" + batch.count())
                        .collect(Collectors.joining(" "))
                + (filled ? ", filled" : "")
                + (parts == 1 ? "" : ", part " + part + "/" + parts);
    }
}
