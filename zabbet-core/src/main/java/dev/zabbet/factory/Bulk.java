package dev.zabbet.factory;

import dev.zabbet.internal.plan.BulkRecipe;
import dev.zabbet.internal.plan.Recipe;
import dev.zabbet.internal.text.Words;
import dev.zabbet.type.CheckReturnValue;
import java.util.List;

/**
 * Rows of several tables that are made and stored together, in large numbers, without being handed back. Rows refer to
 * rows of tables named before: evenly, or each to another where a unique key says so. Other parents that they need are generated.
 * Immutable.
 *
 * <pre>{@code
 * stage.add(Bulk.of(3, "hut").and(1_000, "guest").and(200_000, "stay"));
 * }</pre>
 *
 * <p>It can be stored in parts, by several processes in any order; together they store exactly the rows that one process
 * would. What the parts share is where the rows' numbers begin: the first part to be stored notes it in the database.
 */
@CheckReturnValue
public final class Bulk {
    static {
        BulkRecipe.openBy(bulk -> ((Bulk) bulk).recipe);
    }

    private final BulkRecipe recipe;

    private Bulk(BulkRecipe recipe) {
        this.recipe = recipe;
    }

    /**
     * {@return a bulk of rows of one table}
     *
     * @param count how many, at least 1
     * @param table the table's name; case matters only where two names differ in nothing else
     * @throws IllegalArgumentException if {@code count} is less than 1
     */
    public static Bulk of(int count, String table) {
        return of(count, Factory.forTable(table));
    }

    /**
     * {@return a bulk of what a factory makes} The factory's own settings for a reference take precedence over tables named before.
     *
     * @param count how many, at least 1
     * @param factory what makes the rows
     * @throws IllegalArgumentException if {@code count} is less than 1
     */
    public static Bulk of(int count, Factory<?> factory) {
        return new Bulk(new BulkRecipe(List.of(), false, 1, 1)).and(count, factory);
    }

    /**
     * {@return a bulk with rows of another table added; see {@link #of(int, String)}}
     *
     * @param count how many rows, at least 1
     * @param table the table's name; case matters only where two names differ in nothing else
     */
    public Bulk and(int count, String table) {
        return and(count, Factory.forTable(table));
    }

    /**
     * {@return a bulk with rows of another factory added; see {@link #of(int, Factory)}}
     *
     * @param count how many rows, at least 1
     * @param factory what makes the rows
     */
    public Bulk and(int count, Factory<?> factory) {
        Words.notNull(factory, "factory", "Bulk");
        if (count < 1) {
            throw new IllegalArgumentException(
                    "Bulk: " + count + " rows of " + factory.table() + "; the count must be at least 1.");
        }
        return new Bulk(recipe.and(new BulkRecipe.Batch(count, Recipe.of(factory))));
    }

    /** {@return a bulk whose optional columns are filled too} */
    public Bulk filled() {
        return new Bulk(recipe.withAllFilled());
    }

    /**
     * {@return one of several parts of this bulk, to be stored alone} A part holds its share of the rows of each table, and
     * those of other parts that its own refer to, unless these are stored already.
     *
     * <p>Parts belong together if they name the same tables and counts in the same order, and have the same variation.
     *
     * @param part which, from 1
     * @param of how many parts there are
     * @throws IllegalArgumentException if there is no such part
     */
    public Bulk part(int part, int of) {
        if (part < 1 || part > of) {
            throw new IllegalArgumentException("There is no part " + part + " of " + of
                    + "; parts are numbered from 1 to " + Math.max(1, of) + ".");
        }
        return new Bulk(recipe.ofPart(part, of));
    }

    /** Returns {@code hut=3 stay=200, part 2/4}. */
    @Override
    public String toString() {
        return recipe.toString();
    }
}
