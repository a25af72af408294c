package dev.zabbet.spark.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.store.RowSource;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import org.apache.spark.sql.catalyst.util.DateTimeUtils;
import org.apache.spark.sql.types.ArrayType;
import org.apache.spark.sql.types.BinaryType;
import org.apache.spark.sql.types.BooleanType;
import org.apache.spark.sql.types.DataType;
import org.apache.spark.sql.types.DateType;
import org.apache.spark.sql.types.Decimal;
import org.apache.spark.sql.types.DecimalType;
import org.apache.spark.sql.types.DoubleType;
import org.apache.spark.sql.types.StringType;
import org.apache.spark.sql.types.TimestampNTZType;
import org.apache.spark.sql.types.TimestampType;
import org.apache.spark.sql.vectorized.ColumnVector;
import org.apache.spark.sql.vectorized.ColumnarArray;
import org.apache.spark.sql.vectorized.ColumnarMap;
import org.apache.spark.unsafe.types.UTF8String;
import org.jspecify.annotations.Nullable;

/** The values of one column of a batch of rows, in Spark's own forms; filled again for the next batch. */
final class MadeColumn extends ColumnVector {
    private static final int TEXTS = 256; // that are kept, as many columns have few: a power of two

    private final Form form;
    private final boolean[] nulls;
    private final long[] longs;
    private final double[] doubles;
    private final @Nullable Object[] objects;
    private final String[] texts;
    private final UTF8String[] encoded;
    private int @Nullable [] ends; // of lists
    private @Nullable MadeColumn elements;
    private boolean anyNull;

    /** Where and how values are kept. */
    private enum Form {
        TRUTH,
        WHOLE,
        DAY,
        TIME,
        MOMENT,
        SMALL_DECIMAL,
        REAL,
        LARGE_DECIMAL,
        TEXT,
        BYTES,
        LIST
    }

    MadeColumn(DataType type, int capacity) {
        super(type);
        form = form(type);
        nulls = new boolean[capacity];
        longs = new long[form.compareTo(Form.REAL) < 0 ? capacity : 0];
        doubles = new double[form == Form.REAL ? capacity : 0];
        objects = new @Nullable Object[form.compareTo(Form.REAL) > 0 ? capacity : 0];
        texts = new String[form == Form.TEXT ? TEXTS : 0];
        encoded = new UTF8String[texts.length];
    }

    private static Form form(DataType type) {
        if (type instanceof ArrayType) {
            return Form.LIST;
        }
        if (type instanceof DecimalType decimal) {
            return decimal.precision() <= Decimal.MAX_LONG_DIGITS() ? Form.SMALL_DECIMAL : Form.LARGE_DECIMAL;
        }
        if (type instanceof BooleanType) {
            return Form.TRUTH;
        }
        if (type instanceof DoubleType) {
            return Form.REAL;
        }
        if (type instanceof DateType) {
            return Form.DAY;
        }
        if (type instanceof TimestampNTZType) {
            return Form.TIME;
        }
        if (type instanceof TimestampType) {
            return Form.MOMENT;
        }
        if (type instanceof BinaryType) {
            return Form.BYTES;
        }
        return type instanceof StringType ? Form.TEXT : Form.WHOLE;
    }

    /** Begins another batch. */
    void clear() {
        anyNull = false;
        Arrays.fill(nulls, false);
        Arrays.fill(objects, null);
    }

    /** Takes nulls: what is left to the database. */
    void fillNull(int to, int count) {
        Arrays.fill(nulls, to, to + count, true);
        anyNull = true;
    }

    /**
     * Takes values of a source.
     *
     * @param column the position in the source
     * @param from the first row of the source
     * @param to where it comes here
     */
    void fill(RowSource source, int column, int from, int to, int count) {
        for (int i = 0; i < count; i++) {
            put(to + i, source.value(from + i, column));
        }
        if (form == Form.LIST) {
            layOut(to + count);
        }
    }

    private void put(int at, @Nullable Object value) {
        if (value == null) {
            nulls[at] = true;
            anyNull = true;
            return;
        }
        switch (form) {
            case WHOLE -> longs[at] = ((Number) value).longValue();
            case TRUTH -> longs[at] = (Boolean) value ? 1 : 0;
            case DAY -> longs[at] = ((LocalDate) value).toEpochDay();
            case TIME -> longs[at] = DateTimeUtils.localDateTimeToMicros((LocalDateTime) value);
            case MOMENT -> longs[at] = DateTimeUtils.instantToMicros((Instant) value);
            case SMALL_DECIMAL -> longs[at] = unscaled(value);
            case REAL -> doubles[at] = ((Number) value).doubleValue();
            case LARGE_DECIMAL -> objects[at] = decimal(value);
            case TEXT -> objects[at] = text(value);
            case BYTES, LIST -> objects[at] = value;
        }
    }

    private DecimalType decimals() {
        return (DecimalType) dataType();
    }

    private long unscaled(Object value) {
        BigDecimal number = number(value);
        int scale = decimals().scale();
        if (number.scale() != scale) {
            number = number.setScale(scale, RoundingMode.UNNECESSARY);
        }
        return number.unscaledValue().longValue();
    }

    private Decimal decimal(Object value) {
        return Decimal.apply(number(value), decimals().precision(), decimals().scale());
    }

    private static BigDecimal number(Object value) {
        if (value instanceof BigDecimal number) {
            return number;
        }
        return value instanceof BigInteger whole ? new BigDecimal(whole) : new BigDecimal(value.toString());
    }

    private UTF8String text(Object value) {
        String text = value instanceof BigDecimal number ? number.toPlainString() : value.toString();
        int slot = text.hashCode() & (TEXTS - 1);
        if (text.equals(texts[slot])) {
            return encoded[slot];
        }
        texts[slot] = text;
        encoded[slot] = UTF8String.fromString(text);
        return encoded[slot];
    }

    /** Puts the elements of all lists into one column. */
    private void layOut(int count) {
        int[] behind = new int[count];
        int size = 0;
        for (int i = 0; i < count; i++) {
            size += objects[i] instanceof List<?> list ? list.size() : 0;
            behind[i] = size;
        }
        MadeColumn all = new MadeColumn(((ArrayType) dataType()).elementType(), size);
        int at = 0;
        for (int i = 0; i < count; i++) {
            if (objects[i] instanceof List<?> list) {
                for (Object element : list) {
                    all.put(at++, element);
                }
            }
        }
        if (all.form == Form.LIST) {
            all.layOut(size);
        }
        ends = behind;
        elements = all;
    }

    @Override
    public void close() {
        // memory alone is held
    }

    @Override
    public boolean hasNull() {
        return anyNull;
    }

    @Override
    public int numNulls() {
        int count = 0;
        for (boolean isNull : nulls) {
            count += isNull ? 1 : 0;
        }
        return count;
    }

    @Override
    public boolean isNullAt(int row) {
        return nulls[row];
    }

    @Override
    public boolean getBoolean(int row) {
        return longs[row] != 0;
    }

    @Override
    public byte getByte(int row) {
        return (byte) longs[row];
    }

    @Override
    public short getShort(int row) {
        return (short) longs[row];
    }

    @Override
    public int getInt(int row) {
        return (int) longs[row];
    }

    @Override
    public long getLong(int row) {
        return longs[row];
    }

    @Override
    public float getFloat(int row) {
        return (float) doubles[row];
    }

    @Override
    public double getDouble(int row) {
        return doubles[row];
    }

    @Override
    public @Nullable ColumnarArray getArray(int row) {
        if (nulls[row]) {
            return null;
        }
        int[] behind = Objects.requireNonNull(ends);
        int first = row == 0 ? 0 : behind[row - 1];
        return new ColumnarArray(Objects.requireNonNull(elements), first, behind[row] - first);
    }

    @Override
    public ColumnarMap getMap(int row) {
        throw new ZabbetException("No column of a table is a map.");
    }

    @Override
    public @Nullable Decimal getDecimal(int row, int precision, int scale) {
        if (nulls[row]) {
            return null;
        }
        return form == Form.SMALL_DECIMAL ? Decimal.createUnsafe(longs[row], precision, scale) : (Decimal) objects[row];
    }

    @Override
    public @Nullable UTF8String getUTF8String(int row) {
        return (UTF8String) objects[row];
    }

    @Override
    public byte @Nullable [] getBinary(int row) {
        return (byte[]) objects[row];
    }

    @Override
    public ColumnVector getChild(int ordinal) {
        return Objects.requireNonNull(elements);
    }
}
