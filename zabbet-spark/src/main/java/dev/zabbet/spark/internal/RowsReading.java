package dev.zabbet.spark.internal;

import dev.zabbet.error.ZabbetException;
import java.util.Arrays;
import org.apache.spark.sql.catalyst.InternalRow;
import org.apache.spark.sql.connector.read.InputPartition;
import org.apache.spark.sql.connector.read.PartitionReader;
import org.apache.spark.sql.connector.read.PartitionReaderFactory;
import org.apache.spark.sql.vectorized.ColumnarBatch;

/**
 * Makes the rows of a partition, on an executor, column by column for some thousand rows at once.
 *
 * @param columns the positions of the columns that are read
 */
record RowsReading(Asked asked, int[] columns) implements PartitionReaderFactory {
    private static final int AT_ONCE = 1024;

    @Override
    public boolean supportColumnarReads(InputPartition partition) {
        return true;
    }

    @Override
    public PartitionReader<InternalRow> createReader(InputPartition partition) {
        throw new ZabbetException("Rows are read in batches.");
    }

    @Override
    public PartitionReader<ColumnarBatch> createColumnarReader(InputPartition partition) {
        return new Reading(MadeRows.of(asked), columns, (RowRange) partition);
    }

    private static final class Reading implements PartitionReader<ColumnarBatch> {
        private final MadeRows rows;
        private final int[] positions;
        private final MadeColumn[] columns;
        private final ColumnarBatch batch;
        private final int end;
        private int row;

        Reading(MadeRows rows, int[] positions, RowRange range) {
            this.rows = rows;
            this.positions = positions;
            this.row = range.first();
            this.end = range.end();
            int capacity = Math.max(1, Math.min(AT_ONCE, end - row));
            this.columns = Arrays.stream(positions)
                    .mapToObj(at -> new MadeColumn(
                            SparkForms.type(rows.table.columns().get(at).type()), capacity))
                    .toArray(MadeColumn[]::new);
            this.batch = new ColumnarBatch(columns);
        }

        @Override
        public boolean next() {
            int count = Math.min(AT_ONCE, end - row);
            if (count <= 0) {
                return false;
            }
            for (int i = 0; i < columns.length; i++) {
                rows.fill(columns[i], positions[i], row, count);
            }
            batch.setNumRows(count);
            row += count;
            return true;
        }

        @Override
        public ColumnarBatch get() {
            return batch;
        }

        @Override
        public void close() {
            batch.close();
        }
    }
}
