package dev.zabbet.bench;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.files.SchemaFile;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Schema;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.apache.spark.sql.Dataset;
import org.apache.spark.sql.Row;
import org.apache.spark.sql.SparkSession;

/**
 * Measures the data source for Spark on one and two cores, beside the same values made without Spark, and beside Spark's own range with
 * as many columns. Argument: how many stays. Built and run with the profile {@code spark}.
 */
public final class Sparking {
    private static final int ROUNDS = 3;
    private static final String COUNTS = "hut=1e3 room=1e4 stay=";

    @SuppressWarnings("UnusedVariable") // written so that the compiler cannot leave the making out
    private static volatile long made;

    private Sparking() {}

    /** Runs the measurements and prints a line for each. */
    public static void main(String[] arguments) throws Exception {
        int rows = arguments.length > 0 ? Integer.parseInt(arguments[0]) : 5_000_000;
        Schema schema = Jdbc.schema(Bench.huts(Target.H2));
        String text = SchemaFile.toJson(schema);
        Path folder = Files.createTempDirectory("zabbet-spark");
        try {
            double alone = rows / median(() -> byThread(schema, rows));
            print("make %,d stays in one thread: %,.0f rows/s", rows, alone);
            double one = 0;
            for (int cores : new int[] {1, 2}) {
                try (SparkSession spark = SparkSession.builder()
                        .master("local[" + cores + "]")
                        .config("spark.ui.enabled", false)
                        .config("spark.sql.shuffle.partitions", 2)
                        .getOrCreate()) {
                    double made = rows / median(() -> discard(stays(spark, text, rows)));
                    one = cores == 1 ? made : one;
                    print(
                            "Spark, %d of its cores: %,.0f rows/s; %.2f of one thread's for each core; %.2f times one core",
                            cores, made, made / cores / alone, made / one);
                    double ranged = rows / median(() -> discard(range(spark, rows)));
                    print("  Spark's own range with as many columns: %,.0f rows/s", ranged);
                    Path target = folder.resolve("stays.parquet");
                    double written = median(() -> parquet(stays(spark, text, rows), target));
                    double range = median(() -> parquet(range(spark, rows), target));
                    print(
                            "  as Parquet %,.0f rows/s; Spark's own range with as many columns %,.0f rows/s; ratio %.2f",
                            rows / written, rows / range, range / written);
                }
            }
        } finally {
            delete(folder);
        }
    }

    private static void byThread(Schema schema, int rows) {
        long sum = 0;
        try (Stage stage = Memory.stage(schema)) {
            Load load = stage.planned(Bulk.of(1_000, Factory.forTable("hut"))
                    .and(10_000, Factory.forTable("room"))
                    .and(rows, Factory.forTable("stay")));
            for (RowSource source : load.inserts()) {
                if (source.table().name().equals("stay")) {
                    for (int row = 0; row < source.size(); row++) {
                        for (int column = 0; column < source.columns().size(); column++) {
                            Object value = source.value(row, column);
                            sum += value == null ? 0 : value.hashCode();
                        }
                    }
                }
            }
        }
        made = sum;
    }

    private static Dataset<Row> stays(SparkSession spark, String schema, int rows) {
        return spark.read()
                .format("zabbet")
                .option("schema", schema)
                .option("rows", COUNTS + rows)
                .option("table", "stay")
                .load();
    }

    private static Dataset<Row> range(SparkSession spark, int rows) {
        return spark.range(rows)
                .selectExpr(
                        "id",
                        "id % 1000 AS hut_id",
                        "CAST(id % 4 AS INT) AS room_number",
                        "DATE_ADD(DATE'2031-07-01', CAST(id % 60 AS INT)) AS arrives",
                        "CAST(id % 14 AS INT) AS nights",
                        "CASE id % 3 WHEN 0 THEN 'REQUESTED' WHEN 1 THEN 'CONFIRMED' ELSE 'CANCELLED' END AS status",
                        "CAST(id % 100000 AS DECIMAL(8, 2)) AS price",
                        "TIMESTAMP_NTZ'2031-07-01 08:00:00' AS booked_at");
    }

    private static void discard(Dataset<Row> rows) {
        rows.write().format("noop").mode("overwrite").save();
    }

    private static void parquet(Dataset<Row> rows, Path target) {
        rows.write().mode("overwrite").parquet(target.toString());
    }

    private static double median(Runnable work) {
        List<Double> seconds = new ArrayList<>();
        for (int round = 0; round < ROUNDS; round++) {
            long begun = System.nanoTime();
            work.run();
            seconds.add((System.nanoTime() - begun) / 1e9);
        }
        seconds.sort(null);
        return seconds.get(ROUNDS / 2);
    }

    private static void print(String format, Object... values) {
        System.out.println(String.format(Locale.ROOT, format, values));
    }

    private static void delete(Path folder) throws IOException {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(file);
            }
        }
    }
}
