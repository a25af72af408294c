package dev.zabbet.spring.huts;

import java.util.List;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.Slice;
import org.springframework.data.jpa.repository.JpaRepository;

/** The stays. */
public interface Stays extends JpaRepository<Stay, Long> {
    /** What a list of arrivals shows. */
    interface Arrival {
        String getGuest();

        int getNights();
    }

    List<Stay> findByHut_NameAndNightsGreaterThan(String hut, int nights);

    List<Stay> findByHutBedsLessThanOrderByGuestDesc(int beds);

    List<Arrival> findByStatus(Stay.Status status);

    Page<Stay> findByHut(Hut hut, Pageable page);

    Slice<Stay> findByNights(int nights, Pageable page);

    long countByHut_Name(String hut);
}
