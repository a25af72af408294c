package dev.zabbet.examples.spark;

import static org.apache.spark.sql.functions.avg;
import static org.apache.spark.sql.functions.col;
import static org.apache.spark.sql.functions.count;
import static org.apache.spark.sql.functions.desc;
import static org.apache.spark.sql.functions.round;

import dev.zabbet.Stage;
import dev.zabbet.files.SchemaFile;
import dev.zabbet.jdbc.Jdbc;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.apache.spark.sql.Dataset;
import org.apache.spark.sql.Row;
import org.apache.spark.sql.SparkSession;

/**
 * Data for a load test, made on all cores of this machine: stays as Parquet, with the huts that they refer to, and what Spark says of
 * them. Arguments: where to, and how many stays.
 */
public final class ManyStays {
    private final SparkSession spark;
    private final Path schema;
    private final int stays;

    private ManyStays(SparkSession spark, Path schema, int stays) {
        this.spark = spark;
        this.schema = schema;
        this.stays = stays;
    }

    /** Makes the stays, and prints which huts are asked for most. */
    public static void main(String[] arguments) throws IOException {
        Path folder = Files.createDirectories(Path.of(arguments.length > 0 ? arguments[0] : "target/many-stays"));
        int stays = arguments.length > 1 ? Integer.parseInt(arguments[1]) : 2_000_000;
        Path schema = folder.resolve("huts.json");
        try (Stage stage = Jdbc.embedded("/db/huts.sql")) { // or: zabbet schema --out huts.json
            SchemaFile.write(stage.schema(), schema);
        }
        try (SparkSession spark = SparkSession.builder()
                .appName("many stays")
                .master("local[*]")
                .config("spark.ui.enabled", false)
                .getOrCreate()) {
            new ManyStays(spark, schema, stays).make(folder);
        }
    }

    private void make(Path folder) {
        String huts = folder.resolve("huts.parquet").toString();
        String booked = folder.resolve("stays.parquet").toString();
        rows("hut").write().mode("overwrite").parquet(huts);
        rows("stay").write().mode("overwrite").parquet(booked);
        spark.read()
                .parquet(booked)
                .join(spark.read().parquet(huts).withColumnRenamed("id", "hut_id"), "hut_id")
                .groupBy("name")
                .agg(count("*").as("stays"), round(avg(col("nights")), 2).as("nights"))
                .orderBy(desc("stays"), col("name"))
                .show(5);
    }

    /** All tables are of one call: the same counts and variation tell which parents there are. */
    private Dataset<Row> rows(String table) {
        return spark.read()
                .format("zabbet")
                .option("schema", schema.toString())
                .option("rows", "hut=200 guest=1e5 stay=" + stays)
                .option("variation", 7)
                .option("table", table)
                .load();
    }
}
