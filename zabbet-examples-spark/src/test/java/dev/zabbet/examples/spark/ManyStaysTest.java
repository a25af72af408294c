package dev.zabbet.examples.spark;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import org.apache.spark.sql.Dataset;
import org.apache.spark.sql.Row;
import org.apache.spark.sql.SparkSession;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The example as a user starts it. */
class ManyStaysTest {

    @Test
    void itWritesStaysWhoseHutsAreThere(@TempDir Path folder) throws Exception {
        ByteArrayOutputStream printed = new ByteArrayOutputStream();
        PrintStream before = System.out;
        System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
        try {
            ManyStays.main(new String[] {folder.toString(), "20000"});
        } finally {
            System.setOut(before);
        }
        String told = printed.toString(StandardCharsets.UTF_8);
        assertTrue(told.contains("name") && told.contains("stays") && told.contains("only showing top 5 rows"), told);
        try (SparkSession spark = SparkSession.builder()
                .master("local[2]")
                .config("spark.ui.enabled", false)
                .getOrCreate()) {
            Dataset<Row> stays =
                    spark.read().parquet(folder.resolve("stays.parquet").toString());
            Dataset<Row> huts =
                    spark.read().parquet(folder.resolve("huts.parquet").toString());
            assertEquals(20_000, stays.count());
            assertEquals(200, huts.count());
            assertEquals(
                    20_000,
                    stays.join(huts, stays.col("hut_id").equalTo(huts.col("id")))
                            .count());
        }
    }
}
