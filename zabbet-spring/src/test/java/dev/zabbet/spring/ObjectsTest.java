package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.factory.Payload;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.huts.Hut;
import dev.zabbet.spring.huts.HutsApplication;
import dev.zabbet.spring.huts.Stay;
import jakarta.persistence.EntityManager;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.transaction.annotation.Transactional;

/** Objects as the application's own parts take and give them: its entity manager and its ObjectMapper. */
@Staged
@SpringBootTest(
        classes = HutsApplication.class,
        properties = {
            "spring.jackson.property-naming-strategy=SNAKE_CASE",
            "spring.flyway.enabled=false",
            "spring.jpa.hibernate.ddl-auto=create"
        })
class ObjectsTest {
    private final Factory<Stay> booked =
            Factory.forType(Stay.class).with(Stay::getNights, 2).with(Stay::getStatus, Stay.Status.BOOKED);

    @Autowired
    EntityManager entities;

    @Test
    void payloadsAsTheApplicationReadsThem(Stage stage) {
        Hut hut = stage.add(Factory.forType(Hut.class));
        Factory<Stay> stay = booked.with(Stay::getHut, hut).with(Stay::getGuest, "Ida Holm");
        assertEquals(
                Map.of("hut_id", hut.getId(), "guest", "Ida Holm", "nights", 2, "status", "BOOKED"),
                stage.payload(stay));
        assertEquals(
                Map.of("hutId", hut.getId(), "guest", "Ida Holm", "nights", 2, "status", "BOOKED"),
                stage.payload(stay, Payload.Naming.CAMEL));
    }

    @Test
    @Transactional
    void persistedByTheEntityManager(Stage stage) {
        Hut hut = stage.add(Factory.forType(Hut.class));
        List<Stay> stays = stage.add(2, booked.with(Stay::getHut, hut).through(Persisting.by(entities)));
        assertTrue(stays.stream().allMatch(entities::contains), "they are attached");
        assertSame(hut, stays.get(0).getHut());
        stage.act(() -> stays.get(0).cancel())
                .expect()
                .changed(
                        "stay", stays.get(0).getId(), row("status", "CANCELLED").with("version", 1))
                .nothingElse();
    }

    @Test
    void notWithoutATransaction(Stage stage) {
        Hut hut = stage.add(Factory.forType(Hut.class));
        Factory<Stay> idas = booked.with(Stay::getHut, hut).with(Stay::getGuest, "Ida Holm");
        assertEquals(
                "The application's code did not store object 1 of 1, Stay {hutId=" + hut.getId()
                        + ", guest=Ida Holm, nights=2, status=BOOKED}.\nIt threw dev.zabbet.error.ZabbetException: An entity"
                        + " manager persists in a transaction only, and none is open. Put @Transactional on the test, or add"
                        + " the objects inside a TransactionTemplate.",
                assertThrows(ZabbetException.class, () -> stage.add(idas.through(Persisting.by(entities))))
                        .getMessage());
    }
}
