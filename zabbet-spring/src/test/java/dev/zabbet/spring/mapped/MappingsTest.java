package dev.zabbet.spring.mapped;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.junit.Staged;
import dev.zabbet.spring.Persisting;
import jakarta.persistence.EntityManager;
import jakarta.persistence.EntityManagerFactory;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.boot.autoconfigure.EnableAutoConfiguration;
import org.springframework.boot.test.context.SpringBootTest;
import org.springframework.context.annotation.Configuration;
import org.springframework.data.jpa.repository.JpaRepository;
import org.springframework.data.jpa.repository.support.SimpleJpaRepository;
import org.springframework.transaction.support.TransactionTemplate;

/** Every way to map × every use of an entity. */
@Staged
@SpringBootTest(
        classes = MappingsTest.Application.class,
        properties = {"spring.flyway.enabled=false", "spring.jpa.hibernate.ddl-auto=create"})
class MappingsTest {
    @Configuration
    @EnableAutoConfiguration
    static class Application {}

    @Autowired
    EntityManagerFactory provider;

    @Autowired
    EntityManager entities;

    @Autowired
    TransactionTemplate transaction;

    static Stream<Class<?>> types() {
        return Stream.of(
                Mapped.Hut.class,
                Mapped.Tag.class,
                Mapped.Stay.class,
                Mapped.Guest.class,
                Mapped.Bed.class,
                Mapped.Opening.class,
                Mapped.Pass.class,
                Mapped.Warden.class,
                Mapped.Cook.class,
                Mapped.Invoice.class,
                Mapped.Sledge.class,
                Mapped.Journal.class,
                Mapped.Notice.class,
                Mapped.Season.class,
                Mapped.Trail.class,
                Mapped.Region.class,
                Mapped.Map1.class,
                Mapped.Route.class,
                Mapped.Stop.class,
                Mapped.Turn.class);
    }

    /** One use of a type; fails by whatever it throws. */
    private interface Use<T> {
        void of(Class<T> type) throws Exception;
    }

    private Object idOf(Object entity) {
        return provider.getPersistenceUnitUtil().getIdentifier(entity);
    }

    /** PostgreSQL reads large objects in a transaction only. */
    private <T> T found(Class<T> type, T like) {
        return transaction.execute(s -> entities.find(type, idOf(like)));
    }

    /** Where the key is that of a parent, the provider wants a parent that it manages. */
    private <T> Factory<T> forSaving(Class<T> type, Stage stage) {
        Factory<T> factory = Factory.forType(type);
        return type != Mapped.Pass.class
                ? factory
                : factory.ref(
                        "guest", entities.find(Mapped.Guest.class, stage.add(Factory.forType(Mapped.Guest.class)).id));
    }

    private <T> Map<String, Use<T>> uses(Stage stage) {
        Map<String, Use<T>> uses = new LinkedHashMap<>();
        uses.put("described", Factory::forType);
        uses.put("added", type -> stage.add(Factory.forType(type)));
        uses.put("loaded", type -> {
            T added = stage.add(Factory.forType(type));
            assertTrue(found(type, added) != null);
        });
        uses.put("persisted", type -> {
            T saved = transaction.execute(
                    s -> new SimpleJpaRepository<T, Object>(type, entities).save(stage.build(forSaving(type, stage))));
            assertTrue(found(type, saved) != null);
        });
        uses.put("attached", type -> {
            T saved = transaction.execute(s -> stage.add(Factory.forType(type).through(Persisting.by(entities))));
            assertTrue(found(type, saved) != null);
        });
        uses.put("faked", type -> {
            Stage memory = Memory.stage(stage.schema());
            JpaRepository<T, Object> fake = memory.fake(Repositories.of(type));
            T saved = fake.save(memory.build(Factory.forType(type)));
            assertEquals(idOf(saved), idOf(fake.findById(idOf(saved)).orElseThrow()));
            assertEquals(1, fake.findAll().size());
            memory.expect(type).holds(saved);
            fake.delete(saved);
            assertEquals(0, fake.count());
        });
        uses.put("expected", type -> {
            T added = stage.add(Factory.forType(type));
            stage.expect(type).holds(added);
            stage.expect(type).holds(found(type, added));
        });
        uses.put("copied", type -> {
            T added = stage.add(Factory.forType(type));
            T loaded = found(type, added);
            T copy = Factory.like(loaded).build();
            assertEquals(idOf(loaded), idOf(copy));
        });
        uses.put(
                "payload",
                type -> assertTrue(!stage.payload(Factory.forType(type)).isEmpty()));
        uses.put("twenty", type -> {
            List<T> added = stage.add(20, Factory.forType(type));
            added.forEach(one -> assertTrue(found(type, one) != null));
            assertEquals(20, added.size());
        });
        uses.put("filled", type -> {
            T added = stage.add(Factory.forType(type).filled());
            assertTrue(found(type, added) != null);
        });
        uses.put("by table", type -> stage.add(2, Factory.forType(type).table()));
        return uses;
    }

    @ParameterizedTest
    @MethodSource("types")
    <T> void holdsInEveryUse(Class<T> type, Stage stage) {
        List<String> failures = new ArrayList<>();
        this.<T>uses(stage).forEach((name, use) -> {
            var point = stage.mark();
            try {
                use.of(type);
            } catch (Throwable e) {
                failures.add(name + ": " + e);
            } finally {
                stage.rewind(point);
            }
        });
        assertTrue(failures.isEmpty(), () -> type.getSimpleName() + "\n  " + String.join("\n  ", failures));
    }

    /** The provider takes twenty numbers of the sequence at a time, and keeps them whatever is rewound. */
    @Test
    void keysNeverCollideWithThoseThatTheProviderHolds(Stage stage) {
        for (int round = 0; round < 3; round++) {
            var point = stage.mark();
            for (int some = 0; some < 3; some++) {
                stage.add(3, Factory.forType(Mapped.Stay.class));
                List<Mapped.Stay> built = stage.build(7, Factory.forType(Mapped.Stay.class));
                transaction.executeWithoutResult(s -> built.forEach(entities::persist));
            }
            stage.expect(Mapped.Stay.class).count(30);
            stage.rewind(point);
        }
    }
}
