package dev.zabbet.internal.plan.value;

import dev.zabbet.internal.check.PerTable;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.type.DataType;
import dev.zabbet.value.Values;
import java.util.List;
import java.util.Optional;

/**
 * Makes the values of a column that nobody says anything about.
 *
 * @param how makes one
 * @param size how many different ones there are; {@link #ENDLESS} if there are more than anybody stores
 * @param spare how many more there are that a reader would wonder about
 */
public record Maker(How how, long size, long spare) {
    public Maker(How how, long size) {
        this(how, size, 0);
    }

    public static final long ENDLESS = Long.MAX_VALUE;

    /** Stands for a value that may be like another row's. */
    public static final long ANY = -1;

    /** The work itself. */
    @FunctionalInterface
    public interface How {
        /**
         * Makes the value of one row, in its form in memory.
         *
         * @param different {@link #ANY}, or which of the different values to give, from 0
         */
        Object make(Values values, long different);
    }

    /** Picks the maker for a column by its checks, type and name. */
    public static Maker of(Table table, Column column) {
        return PerTable.of(table, new Of(column.name()), Maker.class, () -> new MakerChoice(table, column).pick());
    }

    /** Picks the maker for what is no column: as of one with this name and type alone. */
    public static Maker of(String owner, String name, DataType type) {
        Column column = new Column(name, name, type, false, Optional.empty(), Generation.NONE);
        Table table = new Table(
                owner,
                "",
                owner,
                List.of(column),
                Optional.empty(),
                List.of(),
                List.of(),
                List.of(),
                TableNature.PLAIN);
        return of(table, column);
    }

    private record Of(String column) {}

    /** Tells whether values of the column's type can be invented at all. */
    public static boolean isKnown(Table table, Column column) {
        return new MakerChoice(table, column).isKnown(column.type());
    }

    /** Returns a maker of all values, the strange ones too. */
    public Maker whole() {
        return spare == 0 ? this : new Maker(how, size + spare);
    }

    public Object make(Values values, long different) {
        return how.make(values, different == ANY || size == ENDLESS ? different : different % size);
    }
}
