package dev.zabbet.examples.story;

import static dev.zabbet.expect.Expected.near;
import static dev.zabbet.expect.Expected.row;
import static dev.zabbet.expect.Expected.seconds;

import dev.zabbet.Footprint;
import dev.zabbet.Stage;
import dev.zabbet.examples.huts.Hut;
import dev.zabbet.examples.huts.JdbcGuestRepository;
import dev.zabbet.examples.huts.JdbcLedgerRepository;
import dev.zabbet.examples.huts.JdbcStayRepository;
import dev.zabbet.examples.huts.Status;
import dev.zabbet.examples.huts.Stay;
import dev.zabbet.examples.huts.StayDesk;
import dev.zabbet.factory.Factory;
import dev.zabbet.jdbc.Jdbc;
import java.math.BigDecimal;
import java.util.List;

/** Two confirmed stays in one hut; the guests of the first cancel, three days before they would arrive. */
public final class HutsStory {
    private HutsStory() {}

    /** Runs the story on an embedded database and tells each step. */
    public static void tell(Teller teller) {
        try (Stage stage = Jdbc.embedded("/db/huts.sql", HutsStory.class)) {
            List<Stay> stays = arrange(stage, teller);
            Footprint footprint = act(stage, stays.get(0), teller);
            judge(stage, footprint, stays, teller);
        }
    }

    private static List<Stay> arrange(Stage stage, Teller teller) {
        teller.chapter("Arrange: one hut and two confirmed stays");
        teller.code("""
                Factory<Stay> confirmed = Factory.forType(Stay.class)
                        .with(Stay::nights, 2)
                        .with(Stay::status, CONFIRMED)
                        .invent(Stay::arrives, values -> values.today().plusDays(3));
                Hut hut = stage.add(huts.with(Hut::name, "Edelgrat"));
                List<Stay> stays = stage.add(2, confirmed.ref(Stay::hutId, hut)
                        .inTurn(Stay::price, new BigDecimal("80.00"), new BigDecimal("120.00")));""");
        Factory<Hut> huts = Factory.forType(Hut.class);
        Factory<Stay> confirmed = Factory.forType(Stay.class)
                .with(Stay::nights, 2)
                .with(Stay::status, Status.CONFIRMED)
                .invent(Stay::arrives, values -> values.today().plusDays(3));
        Hut hut = stage.add(huts.with(Hut::name, "Edelgrat"));
        List<Stay> stays = stage.add(
                2,
                confirmed.ref(Stay::hutId, hut).inTurn(Stay::price, new BigDecimal("80.00"), new BigDecimal("120.00")));
        teller.rows("region", List.of("id", "name", "country"), stage.rows("region"));
        teller.rows("hut", List.of("id", "region_id", "name", "altitude_m", "beds", "opened_on"), stage.rows("hut"));
        teller.rows("room", List.of("hut_id", "number", "beds"), stage.rows("room"));
        teller.rows(
                "stay",
                List.of("id", "hut_id", "room_number", "arrives", "nights", "status", "price"),
                stage.rows("stay"));
        teller.remark(
                "Nobody named the region, the rooms or a key: the schema says what a valid row needs, and they come along.");
        return stays;
    }

    private static Footprint act(Stage stage, Stay stay, Teller teller) {
        teller.chapter("Act: the application cancels the first stay");
        teller.code("Footprint footprint = stage.act(() -> desk.cancel(stay.id()));");
        StayDesk desk = new StayDesk(
                new JdbcStayRepository(stage.dataSource()),
                new JdbcGuestRepository(stage.dataSource()),
                new JdbcLedgerRepository(stage.dataSource()),
                stage.clock());
        Footprint footprint = stage.act(() -> desk.cancel(stay.id()));
        teller.changes(footprint.changes());
        return footprint;
    }

    private static void judge(Stage stage, Footprint footprint, List<Stay> stays, Teller teller) {
        teller.chapter("Assert: the right rows, and nothing else");
        teller.code("""
                footprint.expect()
                        .changed("stay", stay.id(), row("status", "CANCELLED")
                                .with("cancelled_at", near(stage.now(), seconds(2))))
                        .added("ledger_entry", row("amount", "-40.00").with("kind", "REFUND"))
                        .nothingElse();""");
        footprint
                .expect()
                .changed(
                        "stay",
                        stays.get(0).id(),
                        row("status", "CANCELLED").with("cancelled_at", near(stage.now(), seconds(2))))
                .added("ledger_entry", row("amount", "-40.00").with("kind", "REFUND"))
                .nothingElse();
        teller.held("The stay is cancelled, half its price is refunded, and nothing else was touched.");
        teller.chapter("And one that fails: somebody thought both stays were cancelled");
        String table = """
                | id | status    | price  | cancelled_at |
                | 1  | CANCELLED | 80     | `not null`   |
                | 2  | CANCELLED | 120.00 | `not null`   |
                """;
        teller.code("stage.expect(\"stay\").where(\"hut_id\", hut.id()).holdsOnly(\"\"\"\n"
                + table.stripTrailing().indent(8).stripTrailing() + "\n        \"\"\");");
        try {
            stage.expect("stay").where("hut_id", stays.get(0).hutId()).holdsOnly(table);
        } catch (AssertionError e) {
            teller.failed(e);
        }
    }
}
