package dev.zabbet.factory;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;

/** Makes the values of a column that nobody says anything about. */
@FunctionalInterface
interface Maker {

    /** Makes the value of one row, in its form in memory. */
    Object make(Values values);

    /** Picks the maker for a column by its constraints, type and name. */
    static Maker of(Table table, Column column) {
        return new MakerChoice(table, column).pick();
    }
}
