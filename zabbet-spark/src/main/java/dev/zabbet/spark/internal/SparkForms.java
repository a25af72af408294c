package dev.zabbet.spark.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.List;
import org.apache.spark.sql.catalyst.util.DateTimeUtils;
import org.apache.spark.sql.catalyst.util.GenericArrayData;
import org.apache.spark.sql.types.ArrayType;
import org.apache.spark.sql.types.DataType;
import org.apache.spark.sql.types.DataTypes;
import org.apache.spark.sql.types.Decimal;
import org.apache.spark.sql.types.DecimalType;
import org.apache.spark.sql.types.StructField;
import org.apache.spark.sql.types.StructType;
import org.apache.spark.unsafe.types.UTF8String;
import org.jspecify.annotations.Nullable;

/** Columns and values in Spark's own types: what has none (times of day, UUIDs, JSON) is text. */
final class SparkForms {
    private static final int MOST_DIGITS = DecimalType.MAX_PRECISION();
    private static final int USUAL_SCALE = 18;

    private SparkForms() {}

    static StructType schema(Table table) {
        StructField[] fields = table.columns().stream().map(SparkForms::field).toArray(StructField[]::new);
        return new StructType(fields);
    }

    /** What is left to the database is null here, whatever the column allows. */
    private static StructField field(Column column) {
        boolean nullable = column.nullable() || column.defaultText().isPresent() || column.isComputed();
        return DataTypes.createStructField(column.name(), type(column.type()), nullable)
                .withComment(column.type().sqlName());
    }

    static DataType type(dev.zabbet.type.DataType type) {
        return switch (type.kind()) {
            case BOOLEAN -> DataTypes.BooleanType;
            case INTEGER -> whole(type);
            case DECIMAL -> decimal(type);
            case FLOAT -> DataTypes.DoubleType;
            case BYTES -> DataTypes.BinaryType;
            case DATE -> DataTypes.DateType;
            case TIMESTAMP -> DataTypes.TimestampNTZType;
            case INSTANT -> DataTypes.TimestampType;
            case ARRAY -> DataTypes.createArrayType(type(type.element().orElseThrow()), true);
            default -> DataTypes.StringType;
        };
    }

    private static DataType whole(dev.zabbet.type.DataType type) {
        int bits = type.precision() == dev.zabbet.type.DataType.UNLIMITED
                ? 64
                : type.precision() + (type.unsigned() ? 1 : 0);
        if (bits <= 16) {
            return DataTypes.ShortType;
        }
        if (bits <= 32) {
            return DataTypes.IntegerType;
        }
        return bits <= 64 ? DataTypes.LongType : DataTypes.createDecimalType(20, 0);
    }

    private static DataType decimal(dev.zabbet.type.DataType type) {
        if (type.precision() == dev.zabbet.type.DataType.UNLIMITED) {
            return DataTypes.createDecimalType(MOST_DIGITS, USUAL_SCALE);
        }
        boolean fits = type.precision() <= MOST_DIGITS && type.scale() >= 0 && type.scale() <= type.precision();
        return fits ? DataTypes.createDecimalType(type.precision(), type.scale()) : DataTypes.StringType;
    }

    /** Returns a value as Spark's rows hold it. */
    static @Nullable Object of(DataType type, @Nullable Object value) {
        if (value == null) {
            return null;
        }
        if (type instanceof ArrayType array) {
            return new GenericArrayData(((List<?>) value)
                    .stream().map(element -> of(array.elementType(), element)).toArray());
        }
        if (type instanceof DecimalType decimal) {
            BigDecimal number =
                    value instanceof BigInteger whole ? new BigDecimal(whole) : new BigDecimal(value.toString());
            return Decimal.apply(number, decimal.precision(), decimal.scale());
        }
        if (value instanceof Number number && type.equals(DataTypes.ShortType)) {
            return number.shortValue();
        }
        if (value instanceof Number number && type.equals(DataTypes.IntegerType)) {
            return number.intValue();
        }
        if (value instanceof Number number && type.equals(DataTypes.LongType)) {
            return number.longValue();
        }
        if (value instanceof Number number && type.equals(DataTypes.DoubleType)) {
            return number.doubleValue();
        }
        if (value instanceof LocalDate date && type.equals(DataTypes.DateType)) {
            return (int) date.toEpochDay();
        }
        if (value instanceof LocalDateTime time && type.equals(DataTypes.TimestampNTZType)) {
            return DateTimeUtils.localDateTimeToMicros(time);
        }
        if (value instanceof Instant instant && type.equals(DataTypes.TimestampType)) {
            return DateTimeUtils.instantToMicros(instant);
        }
        if (value instanceof Boolean || value instanceof byte[]) {
            return value;
        }
        if (type.equals(DataTypes.StringType)) {
            return UTF8String.fromString(
                    value instanceof BigDecimal number ? number.toPlainString() : value.toString());
        }
        throw new ZabbetException(
                "A value of " + value.getClass().getSimpleName() + " is no " + type.simpleString() + ".");
    }
}
