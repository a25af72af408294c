package dev.zabbet.spring.tours;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;

import dev.zabbet.Memory;
import dev.zabbet.SameBehaviour;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.test.context.SpringBootTest;

/** What belongs together is stored and deleted together, by a provider and by fakes alike. */
@Staged
@SpringBootTest(
        classes = AggregatesTest.Application.class,
        properties = {"spring.flyway.enabled=false", "spring.jpa.hibernate.ddl-auto=create"})
class AggregatesTest {
    @SpringBootApplication
    static class Application {}

    @Autowired
    TourDesk desk;

    @Autowired
    Tours tours;

    @Test
    void theProvider(Stage stage) {
        check(stage, desk);
    }

    /** Over the same tables. */
    @Test
    void fakes(Stage stage) {
        Stage memory = Memory.stage(stage.schema());
        check(memory, new TourDesk(memory.fake(Tours.class), memory.fake(Walkers.class)));
    }

    /** Over tables that follow from the classes. */
    @Test
    void fakesOfClasses() {
        Stage memory = Memory.stage(dev.zabbet.schema.Schema.of(
                Tour.class, Tour.Leg.class, Tour.Note.class, Tour.Walker.class, Tour.Permit.class, Tour.Guide.class));
        check(memory, new TourDesk(memory.fake(Tours.class), memory.fake(Walkers.class)));
    }

    @Test
    void drivenSideBySide(Stage stage) {
        assertEquals(
                400,
                SameBehaviour.check(Walkers.class, stage, database -> walkers, 400)
                        .calls());
    }

    @Autowired
    Walkers walkers;

    private static void check(Stage stage, TourDesk desk) {
        Tour tour =
                stage.act(() -> desk.plan("Ring", List.of("Steingrat", "Grat"))).value();
        long id = tour.getId();
        stage.expect("leg")
                .holdsOnly(
                        row("goal", "Steingrat").with("tour_id", id),
                        row("goal", "Grat").with("tour_id", id));
        stage.expect("note").holdsOnly(row("tour_id", id).with("text", "bring a rope"));
        stage.expect("tour_tag").count(2);
        stage.expect("tour_price").holdsOnly(row("season", "summer").with("amount", 300));
        stage.expect("permit").holdsOnly(row("number", "P-1"));
        stage.expect("guide").holdsOnly(row("name", "Mika Dorn"));
        stage.act(() -> desk.change(id));
        stage.expect("leg").holdsOnly(row("goal", "Seehaus"), row("goal", "Edelgrat"));
        stage.expect("note").holdsOnly(row("tour_id", null));
        stage.expect("tour_tag").holdsOnly(row("tag", "high"));
        stage.expect("tour_price").count(2);
        stage.expect("permit").count(0);
        stage.expect("guide").holdsOnly(row("name", "Ada Fink"));
        Tour.Walker walker = stage.add(Factory.forType(Tour.Walker.class));
        long key = stage.rows("walker").get(0).get("id", Long.class);
        stage.act(() -> desk.join(id, key))
                .expect()
                .added("tour_walker", row("tour_id", id).with("walker_id", key))
                .changed("tour", id, row("version", 2))
                .nothingElse();
        assertEquals(1, desk.toursOf(key));
        assertEquals("Big ring", desk.renameTwice(id, "Big ring"));
        stage.act(() -> desk.giveUp("Big ring"));
        for (String table : List.of("tour", "leg", "tour_tag", "tour_price", "tour_walker")) {
            stage.expect(table).count(0);
        }
        stage.expect("walker").holdsOnly(row("name", walker.getName()).with("away", false));
        desk.leave(key);
        stage.expect("walker").holdsOnly(row("name", walker.getName()).with("away", true));
        assertFalse(desk.isThere(key));
    }
}
