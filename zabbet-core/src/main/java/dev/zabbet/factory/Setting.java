package dev.zabbet.factory;

import dev.zabbet.store.RowSource;
import java.util.List;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** What a factory says about one column. */
sealed interface Setting {
    /** The same value in every row. */
    record Fixed(@Nullable Object value) implements Setting {}

    /** What a copied object holds; nothing is said where that has no column of its own. */
    record Copied(@Nullable Object value) implements Setting {}

    /** A value made for each row. */
    record Invented(Function<? super Values, ? extends @Nullable Object> how) implements Setting {}

    /** What would be made if the column had no default. */
    record MadeAnyway() implements Setting {}

    /** A column of rows that are at hand, one for each row. */
    record Given(RowSource rows, int column) implements Setting {}

    /** These values, row by row, from the start again after the last. */
    record InTurn(List<@Nullable Object> values) implements Setting {}

    /** A parent of its own for each row. */
    record Parent(Factory<?> factory) implements Setting {}

    /** One parent for all rows. */
    record SharedParent(Factory<?> factory) implements Setting {}

    /** Parents that are stored already. */
    record StoredParents(boolean skewed) implements Setting {}

    /** Parents at hand, taken in turn: rows or objects. */
    record Parents(List<Object> rows) implements Setting {}
}
