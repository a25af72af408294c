package dev.zabbet.spring.huts;

import java.util.List;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.Slice;
import org.springframework.data.jpa.repository.JpaRepository;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.query.Param;

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

    @Query("select s from Stay s join fetch s.hut h where lower(h.name) like lower(concat('%', :part, '%'))"
            + " and (s.nights between :least and 14 or s.guest in (:guests)) order by s.guest desc")
    List<Stay> inHutsLike(@Param("part") String part, @Param("least") int least, @Param("guests") List<String> guests);

    @Query("select count(distinct s.hut) from Stay s where s.status <> dev.zabbet.spring.huts.Stay.Status.CANCELLED")
    long hutsInUse();

    @Query("select s.guest from #{#entityName} s where s.hut = :hut and not s.nights > 10")
    Page<String> guestsOf(@Param("hut") Hut hut, Pageable page);

    @Modifying
    @Query("update Stay s set s.status = :status, s.nights = s.nights + 1 where s.hut = :hut")
    int setStatus(@Param("status") Stay.Status status, @Param("hut") Hut hut);

    @Modifying
    @Query("delete from Stay s where s.guest is not null and s.nights >= ?1")
    void deleteLong(int nights);
}
