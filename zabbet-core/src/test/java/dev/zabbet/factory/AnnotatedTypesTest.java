package dev.zabbet.factory;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertNotNull;
import static org.junit.jupiter.api.Assertions.assertNull;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.schema.Schema;
import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.Embedded;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.OneToMany;
import jakarta.persistence.Table;
import jakarta.persistence.Transient;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Classes with the annotations of Jakarta Persistence, which say tables, columns, keys and what is not stored. */
class AnnotatedTypesTest {
    @Entity
    @Table(name = "alpine_huts")
    static class HutEntity {
        @Id
        @GeneratedValue
        @Nullable
        Long id;

        @Column(name = "hut_name", length = 80)
        String name = "";

        @Embedded
        @Nullable
        Position position;

        @OneToMany(mappedBy = "hut")
        List<StayEntity> stays = new ArrayList<>();

        @Transient
        @Nullable
        String shownName = null;

        @Nullable
        Long getId() {
            return id;
        }

        String getName() {
            return name;
        }
    }

    @Embeddable
    static class Position {
        int altitude;

        @Column(name = "canton")
        String region = "";
    }

    @Entity(name = "stays")
    static class StayEntity {
        @Id
        @Nullable
        Long id;

        @ManyToOne
        @JoinColumn(name = "where_id")
        @Nullable
        HutEntity hut;

        int nights;

        @Nullable
        HutEntity getHut() {
            return hut;
        }

        int getNights() {
            return nights;
        }
    }

    private final Stage stage = Memory.stage(Schema.of(HutEntity.class, StayEntity.class));

    @Test
    void annotationsSayTablesAndColumns() {
        assertEquals(List.of("alpine_huts", "stays"), stage.schema().tableNames());
        assertEquals(
                List.of("id", "hut_name", "position_altitude", "canton"),
                stage.schema().require("alpine_huts").columnNames());
        HutEntity hut = stage.add(Factory.forType(HutEntity.class)
                .with(HutEntity::getName, "Edelgrat")
                .filled());
        assertNotNull(hut.id);
        assertNotNull(hut.position);
        assertNull(hut.shownName);
        assertEquals(List.of(), hut.stays);
        stage.expect("alpine_huts").holdsOnly(row("hut_name", "Edelgrat").with("canton", hut.position.region));
        stage.expect(HutEntity.class).holds(hut);

        StayEntity stay = stage.add(
                Factory.forType(StayEntity.class).ref(StayEntity::getHut, hut).with(StayEntity::getNights, 3));
        assertEquals(hut.id, stay.hut == null ? null : stay.hut.id);
        stage.expect("stays").holdsOnly(row("where_id", hut.id).with("nights", 3));

        StayEntity alone = Factory.forType(StayEntity.class).build();
        assertNotNull(alone.hut);
        assertEquals(List.of(), alone.hut.stays, "where an object would hold one of a type above it, it ends");
        assertEquals(2, Factory.forType(HutEntity.class).build().stays.size());
    }
}
