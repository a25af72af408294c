package dev.zabbet.examples.spring;

import static org.junit.jupiter.api.Assertions.assertEquals;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.test.autoconfigure.orm.jpa.DataJpaTest;

/** A repository, in a transaction that Spring rolls back. */
@Staged
@DataJpaTest
class StaysTest {
    @Autowired
    Stays stays;

    @Test
    void staysAreFoundByTheNameOfTheirHut(Stage stage) {
        Hut hut = stage.add(Factory.forType(Hut.class)
                .children(2, Factory.forType(Stay.class).inTurn(Stay::getGuest, "Jon", "Ida")));
        stage.add(Factory.forType(Stay.class)); // in another hut
        assertEquals(
                List.of("Ida", "Jon"),
                stays.findByHut_NameOrderByGuest(hut.getName()).stream()
                        .map(Stay::getGuest)
                        .toList());
    }
}
