package dev.zabbet.examples.proof;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.junit.Staged;
import dev.zabbet.store.RewindPoint;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;

/** Tests that look in part, or by other means than expectations. Run by {@link SuiteTest}. */
@Staged("/db/huts.sql")
class MaybeCase extends Desk {
    @Test
    void byRepository(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        assertEquals(Status.CANCELLED, stays.find(stay.id()).orElseThrow().status());
    }

    @Test
    void byJdbc(Stage stage) throws SQLException {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        try (Connection connection = stage.dataSource().getConnection();
                ResultSet found = connection.createStatement().executeQuery("SELECT status FROM \"STAY\"")) {
            assertTrue(found.next());
        }
        assertEquals(stage.dataSource(), stage.dataSource(), "a transaction of one is found by the other");
    }

    @Test
    void notByWriting(Stage stage) throws SQLException {
        Stay stay = stage.add(STAYS);
        stage.act(() -> desk.cancel(stay.id()));
        try (Connection connection = stage.dataSource().getConnection()) {
            connection.createStatement().execute("UPDATE stay SET price = 1");
        }
        stage.expect("stay").count(1);
    }

    @Test
    void whereARowCouldGoOutOfSight(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> stays.save(new Stay(
                stay.id(),
                stay.hutId(),
                stay.roomNumber(),
                stay.arrives(),
                3,
                Status.DONE,
                stay.price(),
                stay.bookedAt(),
                null)));
        stage.expect("stay").where("nights", 3).holdsNoneOf(row("status", "CANCELLED"));
    }

    @Test
    void removed(Stage stage) {
        Stay stay = stage.add(STAYS);
        stage.act(() -> stays.delete(stay.id()));
        stage.expect("stay").holdsNoneOf(row("nights", 9));
    }

    @Test
    void manyRows(Stage stage) {
        stage.act(() -> stage.add(20, "region")).expect().counts("region", 20, 0, 0);
    }

    @Test
    void rewound(Stage stage) {
        RewindPoint point = stage.mark();
        stage.act(() -> stage.add("region")).expect().counts("region", 1, 0, 0);
        stage.rewind(point);
        stage.expect("region").empty();
    }

    static Map<String, String> expected() {
        Map<String, String> expected = new TreeMap<>();
        String none =
                "ledger_entry={(row)=unseen, stay_id=unseen, amount=unseen, kind=unseen, entered_at=unseen, (one more)=unseen}, ";
        expected.put(
                "byRepository",
                "{" + none.replace("unseen", "maybe seen")
                        + "stay={(row)=maybe seen, status=maybe seen, cancelled_at=maybe seen}}");
        expected.put(
                "byJdbc",
                "{" + none.replace("unseen", "written")
                        + "stay={(row)=maybe seen, status=maybe seen, cancelled_at=maybe seen}}");
        expected.put(
                "notByWriting",
                "{" + none.replace("unseen", "written") + "stay={(row)=unseen, status=unseen, cancelled_at=unseen}}");
        expected.put("whereARowCouldGoOutOfSight", "{stay={(row)=unseen, nights=unseen, status=seen}}");
        expected.put("removed", "{stay={(row)=unseen}}");
        expected.put("manyRows", "{region={(row)=seen, name=unseen, country=unseen, (one more)=seen}}");
        expected.put("rewound", "{region={(row)=seen, name=unseen, country=unseen, (one more)=seen}}");
        return expected;
    }
}
