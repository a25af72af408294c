package dev.zabbet.spark.internal;

import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import org.apache.spark.sql.types.DataType;
import org.apache.spark.sql.types.DataTypes;
import org.apache.spark.sql.types.DecimalType;
import org.apache.spark.sql.types.StructField;
import org.apache.spark.sql.types.StructType;

/** Columns in Spark's own types: what has none (times of day, UUIDs, JSON) is text. */
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
}
