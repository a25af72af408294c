package dev.zabbet.spark.internal;

import java.util.ArrayList;
import java.util.List;
import java.util.OptionalLong;
import org.apache.spark.sql.SparkSession;
import org.apache.spark.sql.connector.read.Batch;
import org.apache.spark.sql.connector.read.InputPartition;
import org.apache.spark.sql.connector.read.PartitionReaderFactory;
import org.apache.spark.sql.connector.read.Scan;
import org.apache.spark.sql.connector.read.ScanBuilder;
import org.apache.spark.sql.connector.read.Statistics;
import org.apache.spark.sql.connector.read.SupportsPushDownFilters;
import org.apache.spark.sql.connector.read.SupportsPushDownLimit;
import org.apache.spark.sql.connector.read.SupportsPushDownRequiredColumns;
import org.apache.spark.sql.connector.read.SupportsReportStatistics;
import org.apache.spark.sql.sources.Filter;
import org.apache.spark.sql.types.StructType;
import org.jspecify.annotations.Nullable;

/** A query of one table: which columns, which rows, and the ranges that executors make of them. */
final class RowsScan
        implements ScanBuilder,
                Scan,
                Batch,
                SupportsPushDownRequiredColumns,
                SupportsPushDownLimit,
                SupportsPushDownFilters,
                SupportsReportStatistics {
    private static final long MOST_BYTES = 128L << 20;
    private static final long LEAST_BYTES = 4L << 20;
    private static final int SAMPLE = 100; // rows whose size is taken for that of all

    private final Asked asked;
    private final MadeRows rows;
    private StructType columns;
    private KeyRange keys;
    private Filter[] pushed = new Filter[0];
    private int most = Integer.MAX_VALUE;

    RowsScan(Asked asked, StructType columns) {
        this.asked = asked;
        this.rows = MadeRows.of(asked);
        this.columns = columns;
        this.keys = KeyRange.all();
    }

    @Override
    public void pruneColumns(StructType required) {
        columns = required;
    }

    @Override
    public boolean pushLimit(int limit) {
        most = limit;
        return true;
    }

    @Override
    public boolean isPartiallyPushed() {
        return true; // Spark cuts again, for rows that other conditions leave out
    }

    /** All conditions are asked again of each row: ranges only leave out rows that cannot be meant. */
    @Override
    public Filter[] pushFilters(Filter[] filters) {
        String key = rows.table.numberedColumn().map(column -> column.name()).orElse(null);
        List<Filter> understood = new ArrayList<>();
        for (Filter filter : filters) {
            KeyRange narrower = key == null ? keys : keys.and(filter, key);
            if (!narrower.equals(keys)) {
                keys = narrower;
                understood.add(filter);
            }
        }
        pushed = understood.toArray(Filter[]::new);
        return filters;
    }

    @Override
    public Filter[] pushedFilters() {
        return pushed.clone();
    }

    @Override
    public Scan build() {
        return this;
    }

    @Override
    public StructType readSchema() {
        return columns;
    }

    @Override
    public String description() {
        return "zabbet " + asked.table() + " " + columns.simpleString() + ", rows " + range()[0] + " to " + range()[1];
    }

    @Override
    public Batch toBatch() {
        return this;
    }

    private int[] range() {
        int[] range = rows.rowsOfKeys(keys.least(), keys.most());
        return new int[] {range[0], (int) Math.min(range[1], (long) range[0] + most)};
    }

    @Override
    public InputPartition[] planInputPartitions() {
        int[] range = range();
        int count = range[1] - range[0];
        long bytes = Math.max(1, (long) count * bytesOfRow());
        long size = asked.partitionBytes() > 0 ? asked.partitionBytes() : usualBytes(bytes);
        long wanted = asked.partitions() > 0 ? asked.partitions() : (bytes + size - 1) / size;
        int parts = (int) Math.max(1, Math.min(wanted, Math.max(1, count)));
        InputPartition[] partitions = new InputPartition[parts];
        for (int i = 0; i < parts; i++) {
            partitions[i] = new RowRange(
                    range[0] + (int) ((long) count * i / parts), range[0] + (int) ((long) count * (i + 1) / parts));
        }
        return partitions;
    }

    /** As large as Spark reads files, unless cores would be idle: planning a partition takes milliseconds. */
    private static long usualBytes(long all) {
        int cores = Math.max(1, SparkSession.active().sparkContext().defaultParallelism());
        return Math.min(MOST_BYTES, Math.max(LEAST_BYTES, (all + cores - 1) / cores));
    }

    @Override
    public PartitionReaderFactory createReaderFactory() {
        int[] positions = new int[columns.size()];
        for (int i = 0; i < positions.length; i++) {
            positions[i] = rows.table.requirePosition(columns.fields()[i].name());
        }
        return new RowsReading(asked, positions);
    }

    @Override
    public Statistics estimateStatistics() {
        int[] range = range();
        long count = (long) range[1] - range[0];
        return new Statistics() {
            @Override
            public OptionalLong sizeInBytes() {
                return OptionalLong.of(Math.max(1, count * bytesOfRow()));
            }

            @Override
            public OptionalLong numRows() {
                return OptionalLong.of(count);
            }
        };
    }

    private long bytesOfRow() {
        long bytes = 0;
        int sampled = Math.min(SAMPLE, rows.size());
        for (int row = 0; row < sampled; row++) {
            for (String name : columns.fieldNames()) {
                bytes += bytes(rows.value(row, rows.table.requirePosition(name)));
            }
        }
        return sampled == 0 ? 1 : Math.max(1, bytes / sampled);
    }

    private static long bytes(@Nullable Object value) {
        if (value instanceof String text) {
            return text.length() + 8L;
        }
        return value instanceof byte[] held ? held.length + 8L : 8;
    }
}
