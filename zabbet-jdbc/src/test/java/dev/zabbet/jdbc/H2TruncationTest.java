package dev.zabbet.jdbc;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.LongAdder;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;

/** H2 calls no trigger for TRUNCATE: it is noticed by numbers of rows, which other connections change all the time. */
class H2TruncationTest {
    private static final String TABLE = "CREATE TABLE hut (id INT PRIMARY KEY, name VARCHAR(20) NOT NULL)";

    @Test
    void aTruncationIsRefusedWithTheTablesName() {
        try (Stage stage = Jdbc.embeddedSql(TABLE)) {
            stage.add(3, "hut");
            ZabbetException refusal = assertThrows(
                    ZabbetException.class,
                    () -> stage.act(() -> Engine.execute(stage.dataSource(), "TRUNCATE TABLE hut")));
            assertEquals(
                    "Table hut was truncated, and H2 tells nobody which rows it held. Use DELETE in the code under test, or"
                            + " open a new stage after it.",
                    refusal.getMessage());
        }
    }

    @Test
    void rowsThatOthersStoreMeanwhileAreNoTruncation() throws Exception {
        try (Stage stage = Jdbc.embeddedSql(TABLE)) {
            DataSource database = stage.dataSource();
            stage.mark(); // H2 cannot add triggers while another session writes
            stage.add("hut");
            AtomicBoolean over = new AtomicBoolean();
            LongAdder stored = new LongAdder();
            CompletableFuture<Void> other = CompletableFuture.runAsync(() -> {
                try (Connection connection = database.getConnection();
                        PreparedStatement insert = connection.prepareStatement("INSERT INTO hut VALUES (?, 'other')")) {
                    while (!over.get() && stored.sum() < 20_000) {
                        stored.increment();
                        insert.setLong(1, 1000 + stored.sum());
                        insert.executeUpdate();
                        Thread.sleep(0, 200_000);
                    }
                } catch (Exception e) {
                    throw new IllegalStateException(e);
                }
            });
            for (int i = 0; i < 150; i++) {
                stage.act(() -> Thread.sleep(1));
            }
            over.set(true);
            other.get();
            assertTrue(stored.sum() > 100, stored + " rows were stored meanwhile");
            stage.expect("hut").where("name", "other").count(stored.sum());
            stage.expect("hut").holds(row("id", 1));
        }
    }
}
