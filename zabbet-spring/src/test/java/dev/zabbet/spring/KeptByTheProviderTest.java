package dev.zabbet.spring;

import static dev.zabbet.expect.Expected.row;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertSame;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.jdbc.Jdbc;
import dev.zabbet.schema.Schema;
import jakarta.persistence.DiscriminatorValue;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.Id;
import jakarta.persistence.Inheritance;
import jakarta.persistence.PrePersist;
import jakarta.persistence.PreUpdate;
import jakarta.persistence.Table;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.hibernate.annotations.CreationTimestamp;
import org.hibernate.annotations.SoftDelete;
import org.hibernate.annotations.UpdateTimestamp;
import org.junit.jupiter.api.Test;
import org.springframework.data.jpa.repository.JpaRepository;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.transaction.annotation.Transactional;

/** What a provider does of itself when it stores entities, fakes do too. */
class KeptByTheProviderTest {
    @Entity
    @Table(name = "entry")
    @SoftDelete
    static class Entry {
        @Id
        @GeneratedValue
        private UUID id;

        private String text;
        private String written = "";

        @CreationTimestamp
        private Instant made;

        @UpdateTimestamp
        private Instant changed;

        @PrePersist
        void first() {
            written += "+";
        }

        @PreUpdate
        void again() {
            written += "*";
        }
    }

    interface Entries extends JpaRepository<Entry, UUID> {
        List<Entry> findByText(String text);

        @Modifying(clearAutomatically = true)
        @Query("update Entry e set e.text = upper(e.text)")
        int shout();

        @Modifying
        @Query("update Entry e set e.text = concat(e.text, '!')")
        int shoutUnnoticed();
    }

    @Entity
    @Table(name = "beast")
    @Inheritance
    abstract static class Beast {
        @Id
        @GeneratedValue
        Long id;

        String name;
    }

    @Entity
    @DiscriminatorValue("M")
    static class Mule extends Beast {
        int load;
    }

    @Entity
    @DiscriminatorValue("D")
    static class Dog extends Beast {
        String call;
    }

    interface Beasts extends JpaRepository<Beast, Long> {}

    interface Mules extends JpaRepository<Mule, Long> {
        long countByNameStartingWith(String name);
    }

    private final Stage stage = Memory.stage(schema("""
            CREATE TABLE entry (id UUID PRIMARY KEY, text VARCHAR(40), written VARCHAR(9), made TIMESTAMP WITH TIME ZONE,
                changed TIMESTAMP WITH TIME ZONE, deleted BOOLEAN NOT NULL);
            CREATE TABLE beast (id BIGINT PRIMARY KEY, dtype VARCHAR(9) NOT NULL, name VARCHAR(40), load INT, call VARCHAR(9))"""));
    private final Entries entries = stage.fake(Entries.class);

    private static Schema schema(String sql) {
        try (Stage embedded = Jdbc.embeddedSql(sql)) {
            return embedded.schema();
        }
    }

    private Entry entry(String text) {
        Entry entry = new Entry();
        entry.text = text;
        return entries.save(entry);
    }

    @Test
    void keysTimesAndCallbacks() {
        Entry entry = entry("snow");
        assertTrue(entry.id != null);
        assertEquals(stage.now(), entry.made);
        stage.advance(Duration.ofHours(1));
        entry.text = "rain";
        entries.save(entry);
        entries.save(entry); // unchanged
        stage.expect("entry")
                .holdsOnly(row("written", "+*")
                        .with("made", stage.now().minus(Duration.ofHours(1)))
                        .with("changed", stage.now()));
    }

    @Test
    void rowsThatStayAreNotFound() {
        Entry entry = entry("snow");
        entries.delete(entry);
        stage.expect("entry").holdsOnly(row("text", "snow").with("deleted", true));
        assertEquals(0, entries.count());
        assertTrue(entries.findById(entry.id).isEmpty());
        assertTrue(entries.findByText("snow").isEmpty());
    }

    @Test
    void subclassesInOneTable() {
        Mule mule = new Mule();
        mule.name = "Mina";
        mule.load = 80;
        Dog dog = new Dog();
        dog.name = "Moro";
        Mules mules = stage.fake(Mules.class);
        Beasts beasts = stage.fake(Beasts.class);
        mules.save(mule);
        beasts.save(dog);
        stage.expect("beast")
                .holdsOnly(row("dtype", "M").with("load", 80), row("dtype", "D").with("name", "Moro"));
        assertEquals(1, mules.countByNameStartingWith("M"));
        assertEquals(
                List.of(Mule.class, Dog.class),
                beasts.findAll().stream().<Class<?>>map(Object::getClass).toList());
    }

    @Transactional
    void inTransaction() {
        Entry first = entries.findByText("snow").get(0);
        entries.shoutUnnoticed();
        Entry stale = entries.findAll().get(0);
        assertSame(first, stale);
        assertEquals("snow", stale.text);
        entries.shout();
        assertEquals("SNOW!", entries.findAll().get(0).text);
    }

    @Test
    void whatWasReadStaysUntilItIsLetGo() {
        entry("snow");
        inTransaction();
        stage.expect("entry").holdsOnly(row("text", "SNOW!"));
    }
}
