package dev.zabbet.spark.internal;

import java.util.Set;
import org.apache.spark.sql.connector.catalog.SupportsRead;
import org.apache.spark.sql.connector.catalog.TableCapability;
import org.apache.spark.sql.connector.read.ScanBuilder;
import org.apache.spark.sql.types.StructType;
import org.apache.spark.sql.util.CaseInsensitiveStringMap;

/** A table of made rows, as Spark's planner sees it. */
public final class RowsTable implements SupportsRead {
    private final Asked asked;
    private final StructType schema;

    private RowsTable(Asked asked, StructType schema) {
        this.asked = asked;
        this.schema = schema;
    }

    /** Returns the table that options ask for. */
    public static RowsTable of(Asked asked) {
        return new RowsTable(asked, SparkForms.schema(asked.tables().require(asked.table())));
    }

    @Override
    public String name() {
        return "zabbet " + asked.table();
    }

    @Override
    @SuppressWarnings("deprecation") // and abstract all the same
    public StructType schema() {
        return schema;
    }

    /** Returns the columns. */
    public StructType structure() {
        return schema;
    }

    @Override
    public Set<TableCapability> capabilities() {
        return Set.of(TableCapability.BATCH_READ);
    }

    @Override
    public ScanBuilder newScanBuilder(CaseInsensitiveStringMap options) {
        return new RowsScan(asked, schema);
    }
}
