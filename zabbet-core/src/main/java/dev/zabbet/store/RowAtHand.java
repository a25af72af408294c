package dev.zabbet.store;

import dev.zabbet.row.Row;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** A stored row that is just being read. It can be asked until the next one is read, by the thread that reads. */
public interface RowAtHand {
    /**
     * {@return the value of the column at a position, in canonical form}
     *
     * @param position the place in the table's columns, from 0
     */
    @Nullable
    Object at(int position);

    /**
     * {@return whether the column at a position holds exactly this value, given in canonical form; a number of another scale
     * is not exactly the same}
     *
     * @param position the place in the table's columns, from 0
     * @param value the value, in the column's form in memory
     */
    default boolean holds(int position, @Nullable Object value) {
        return Objects.equals(value, at(position));
    }

    /** {@return all columns as a row, which may be kept} */
    Row row();

    /**
     * {@return a row that has been read before}
     *
     * @param row the row
     */
    static RowAtHand of(Row row) {
        return new RowAtHand() {
            @Override
            public @Nullable Object at(int position) {
                return row.at(position);
            }

            @Override
            public Row row() {
                return row;
            }
        };
    }
}
