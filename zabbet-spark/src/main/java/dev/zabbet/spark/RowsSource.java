package dev.zabbet.spark;

import dev.zabbet.spark.internal.Asked;
import dev.zabbet.spark.internal.RowsTable;
import java.util.Map;
import org.apache.spark.sql.connector.catalog.Table;
import org.apache.spark.sql.connector.catalog.TableProvider;
import org.apache.spark.sql.connector.expressions.Transform;
import org.apache.spark.sql.sources.DataSourceRegister;
import org.apache.spark.sql.types.StructType;
import org.apache.spark.sql.util.CaseInsensitiveStringMap;

/**
 * The data source {@code zabbet}: valid rows of a table, made by as many executors as there are.
 *
 * <pre>{@code
 * spark.read().format("zabbet")
 *         .option("schema", "huts.json")             // what zabbet schema --out huts.json wrote; read by the driver
 *         .option("rows", "hut=1e3 guest=1e6 stay=2e7")
 *         .option("table", "stay")
 *         .load();
 * }</pre>
 *
 * <p>Options:
 *
 * <ul>
 *   <li>{@code schema}: the file of the schema, or the schema itself as JSON; required
 *   <li>{@code rows}: how many rows of which tables, as for {@code zabbet add}; {@code 1e6} is a million; required. At most 2,147,483,647 of
 *       a table
 *   <li>{@code table}: whose rows these are; required
 *   <li>{@code variation}: the number that all invented values follow from; 0 without it
 *   <li>{@code defaults}: a row document, in a file or as text, whose defaults the rows have
 *   <li>{@code filled}: {@code true} fills optional columns too
 *   <li>{@code partitionBytes}: about how many bytes of values a partition makes; without it 128 MiB, or less down to 4 MiB
 *       if cores would be idle otherwise
 *   <li>{@code partitions}: how many partitions there are, in place of {@code partitionBytes}
 * </ul>
 *
 * <p>Columns that are left to the database (a default, what it computes) are null here. Columns that the query does not read are not made;
 * a limit, and conditions on a numbered key, leave out the rows that they do not mean.
 */
public final class RowsSource implements TableProvider, DataSourceRegister {

    /** Called by Spark. */
    public RowsSource() {}

    @Override
    public String shortName() {
        return "zabbet";
    }

    @Override
    public StructType inferSchema(CaseInsensitiveStringMap options) {
        return RowsTable.of(Asked.of(options)).structure();
    }

    @Override
    public Table getTable(StructType schema, Transform[] partitioning, Map<String, String> properties) {
        return RowsTable.of(Asked.of(new CaseInsensitiveStringMap(properties)));
    }
}
