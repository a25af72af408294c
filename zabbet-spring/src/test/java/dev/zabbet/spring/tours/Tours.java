package dev.zabbet.spring.tours;

import java.util.List;
import org.springframework.data.jpa.repository.JpaRepository;

/** The tours. */
public interface Tours extends JpaRepository<Tour, Long> {
    List<Tour> findByGuide_NameOrderByName(String guide);

    void deleteByName(String name);
}
