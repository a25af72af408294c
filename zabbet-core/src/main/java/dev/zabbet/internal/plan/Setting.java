package dev.zabbet.internal.plan;

import dev.zabbet.store.RowSource;
import dev.zabbet.value.Values;
import java.util.List;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** What a factory says about one column. */
public sealed interface Setting {
    /** The same value in every row. */
    record Fixed(@Nullable Object value) implements Setting {}

    /** What a copied object holds; nothing is said where that has no column of its own. */
    record Copied(@Nullable Object value) implements Setting {}

    /** A value made for each row. */
    record Invented(Function<? super Values, ? extends @Nullable Object> how) implements Setting {}

    /** What would be made if the column had no default. */
    record MadeAnyway() implements Setting {}

    /** A column of given rows, one for each row. */
    record Given(RowSource rows, int column) implements Setting {}

    /** These values, row by row, from the start again after the last. */
    record InTurn(List<@Nullable Object> values) implements Setting {}

    /** A parent of its own for each row. */
    record Parent(Recipe<?> recipe) implements Setting {}

    /** One parent for all rows. */
    record SharedParent(Recipe<?> recipe) implements Setting {}

    /** Parents that are stored already. */
    record StoredParents(boolean skewed) implements Setting {}

    /** Given parents, taken in turn: rows or objects. */
    record Parents(List<Object> rows) implements Setting {}
}
