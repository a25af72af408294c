package dev.zabbet.spark.internal;

import org.apache.spark.sql.catalyst.InternalRow;
import org.apache.spark.sql.catalyst.expressions.GenericInternalRow;
import org.apache.spark.sql.connector.read.InputPartition;
import org.apache.spark.sql.connector.read.PartitionReader;
import org.apache.spark.sql.connector.read.PartitionReaderFactory;
import org.apache.spark.sql.types.DataType;
import org.jspecify.annotations.Nullable;

/**
 * Makes the rows of a partition, on an executor.
 *
 * @param columns the positions of the columns that are read
 */
record RowsReading(Asked asked, int[] columns) implements PartitionReaderFactory {

    @Override
    public PartitionReader<InternalRow> createReader(InputPartition partition) {
        return new Reading(MadeRows.of(asked), columns, (RowRange) partition);
    }

    private static final class Reading implements PartitionReader<InternalRow> {
        private final MadeRows rows;
        private final int[] columns;
        private final DataType[] types;
        private final int end;
        private int row;

        Reading(MadeRows rows, int[] columns, RowRange range) {
            this.rows = rows;
            this.columns = columns;
            this.types = new DataType[columns.length];
            for (int i = 0; i < columns.length; i++) {
                types[i] = SparkForms.type(rows.table.columns().get(columns[i]).type());
            }
            this.row = range.first() - 1;
            this.end = range.end();
        }

        @Override
        public boolean next() {
            return ++row < end;
        }

        @Override
        public InternalRow get() {
            @Nullable Object[] values = new @Nullable Object[columns.length];
            for (int i = 0; i < columns.length; i++) {
                values[i] = SparkForms.of(types[i], rows.value(row, columns[i]));
            }
            return new GenericInternalRow(values);
        }

        @Override
        public void close() {
            // nothing is held
        }
    }
}
