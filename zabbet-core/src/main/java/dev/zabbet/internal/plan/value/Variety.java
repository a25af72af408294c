package dev.zabbet.internal.plan.value;

/**
 * How a column's values differ from row to row: by the row's ordinal, divided first where other columns of the same key
 * differ faster.
 *
 * @param divisor how many rows in a row have the same value; 0 if values may be alike anyhow
 */
public record Variety(long divisor) {
    public static final Variety NONE = new Variety(0);
    public static final Variety EACH_ROW = new Variety(1);

    public long different(long ordinal) {
        return divisor == 0 ? Maker.ANY : (ordinal - 1) / divisor;
    }
}
