package dev.zabbet.examples.spring;

import java.util.List;
import org.springframework.data.jpa.repository.JpaRepository;

/** The stays. */
public interface Stays extends JpaRepository<Stay, Long> {

    /** Finds the stays in a hut, by its name. */
    List<Stay> findByHut_NameOrderByGuest(String hut);
}
