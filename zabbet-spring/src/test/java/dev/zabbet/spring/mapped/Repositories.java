package dev.zabbet.spring.mapped;

import java.lang.reflect.ParameterizedType;
import java.util.Arrays;
import org.springframework.data.jpa.repository.JpaRepository;

/** A repository for each mapped type. */
final class Repositories {
    private Repositories() {}

    /** Returns the repository of a type. */
    @SuppressWarnings("unchecked")
    static <T> Class<? extends JpaRepository<T, Object>> of(Class<T> type) {
        return (Class<? extends JpaRepository<T, Object>>) Arrays.stream(Repositories.class.getDeclaredClasses())
                .filter(one -> ((ParameterizedType) one.getGenericInterfaces()[0]).getActualTypeArguments()[0] == type)
                .findFirst()
                .orElseThrow();
    }

    interface OfHut extends JpaRepository<Mapped.Hut, Object> {}

    interface OfTag extends JpaRepository<Mapped.Tag, Object> {}

    interface OfStay extends JpaRepository<Mapped.Stay, Object> {}

    interface OfGuest extends JpaRepository<Mapped.Guest, Object> {}

    interface OfBed extends JpaRepository<Mapped.Bed, Object> {}

    interface OfOpening extends JpaRepository<Mapped.Opening, Object> {}

    interface OfPass extends JpaRepository<Mapped.Pass, Object> {}

    interface OfWarden extends JpaRepository<Mapped.Warden, Object> {}

    interface OfCook extends JpaRepository<Mapped.Cook, Object> {}

    interface OfInvoice extends JpaRepository<Mapped.Invoice, Object> {}

    interface OfSledge extends JpaRepository<Mapped.Sledge, Object> {}

    interface OfJournal extends JpaRepository<Mapped.Journal, Object> {}

    interface OfNotice extends JpaRepository<Mapped.Notice, Object> {}

    interface OfSeason extends JpaRepository<Mapped.Season, Object> {}

    interface OfTrail extends JpaRepository<Mapped.Trail, Object> {}

    interface OfRegion extends JpaRepository<Mapped.Region, Object> {}

    interface OfMap1 extends JpaRepository<Mapped.Map1, Object> {}

    interface OfRoute extends JpaRepository<Mapped.Route, Object> {}

    interface OfStop extends JpaRepository<Mapped.Stop, Object> {}

    interface OfTurn extends JpaRepository<Mapped.Turn, Object> {}
}
