package dev.zabbet.spring.huts;

import java.util.List;
import java.util.Optional;
import org.springframework.data.domain.Limit;
import org.springframework.data.domain.Page;
import org.springframework.data.domain.Pageable;
import org.springframework.data.domain.ScrollPosition;
import org.springframework.data.domain.Slice;
import org.springframework.data.domain.Window;
import org.springframework.data.jpa.repository.JpaRepository;
import org.springframework.data.jpa.repository.JpaSpecificationExecutor;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.query.Param;

/** The stays. */
public interface Stays extends JpaRepository<Stay, Long>, JpaSpecificationExecutor<Stay> {
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

    /** How a hut is used. */
    record Use(String hut, long stays, long nights) {}

    @Query("select new dev.zabbet.spring.huts.Stays$Use(h.name, count(s), sum(s.nights)) from Hut h join h.stays s"
            + " group by h.name having count(s) > :least order by h.name")
    List<Use> uses(@Param("least") long least);

    @Query("select h from Hut h where not exists (select 1 from Stay s where s.hut = h and s.nights > :nights)"
            + " and h.stays is not empty order by h.name")
    List<Hut> hutsWithoutLong(@Param("nights") int nights);

    @Query("select s from Stay s where s.hut.id in (select h.id from Hut h where h.name = ?1)"
            + " and s.nights = (select max(o.nights) from Stay o where o.hut = s.hut)")
    Optional<Stay> longestIn(String hut);

    @Query("select s.guest as guest, case when s.nights > 8 then 99 else s.nights end as nights from Stay s"
            + " where s.hut = :hut order by guest")
    List<Arrival> arrivals(@Param("hut") Hut hut);

    @Query("select h.name, avg(s.nights), min(s.guest) from Stay s join s.hut h group by h.name order by h.name desc")
    List<Object[]> averages();

    @Query(
            value = "select s.* from stay s join hut h on h.id = s.hut_id where h.name like concat(:part, '%')"
                    + " and s.nights between 2 and 9 order by s.guest limit 2",
            nativeQuery = true)
    List<Stay> inSql(@Param("part") String part);

    @Query(
            value =
                    "select h.name as hut, count(*) as stays, sum(s.nights) as nights from hut h"
                            + " left join stay s on s.hut_id = h.id where h.name in ('Seehaus', 'Steingrat') group by h.name order by 1",
            nativeQuery = true)
    List<Object[]> usesInSql();

    @Modifying
    @Query(value = "update stay set guest = upper(guest) where nights > ?1", nativeQuery = true)
    int shout(int nights);

    List<Stay> findByStatusOrderByNights(Stay.Status status, Limit most);

    <T> List<T> findByNightsLessThanOrderByHut_NameAscGuestAsc(int nights, Class<T> as);

    List<Stay> longerThan(@Param("nights") int nights);

    @Query(name = "guests in sql", nativeQuery = true)
    List<String> guestsOfShortStays(int nights);

    Window<Stay> findFirst2ByHutOrderByGuest(Hut hut, ScrollPosition position);
}
