package dev.zabbet.spring.tours;

import jakarta.persistence.CascadeType;
import jakarta.persistence.CollectionTable;
import jakarta.persistence.Column;
import jakarta.persistence.ElementCollection;
import jakarta.persistence.Embeddable;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.JoinTable;
import jakarta.persistence.ManyToMany;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.OneToMany;
import jakarta.persistence.OneToOne;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.hibernate.annotations.SQLDelete;
import org.hibernate.annotations.SQLRestriction;

/** A tour from hut to hut, with all that belongs to it. */
@Entity
public class Tour {
    @Id
    @GeneratedValue
    private Long id;

    private String name;

    @Version
    private int version;

    @OneToMany(mappedBy = "tour", cascade = CascadeType.ALL, orphanRemoval = true)
    private List<Leg> legs = new ArrayList<>();

    @OneToMany(cascade = CascadeType.ALL)
    @JoinColumn(name = "tour_id")
    private List<Note> notes = new ArrayList<>();

    @ManyToMany
    @JoinTable(
            name = "tour_walker",
            joinColumns = @JoinColumn(name = "tour_id"),
            inverseJoinColumns = @JoinColumn(name = "walker_id"))
    private Set<Walker> walkers = new HashSet<>();

    @ElementCollection
    @CollectionTable(name = "tour_tag", joinColumns = @JoinColumn(name = "tour_id"))
    @Column(name = "tag")
    private Set<String> tags = new HashSet<>();

    @ElementCollection
    @CollectionTable(name = "tour_price", joinColumns = @JoinColumn(name = "tour_id"))
    private List<Price> prices = new ArrayList<>();

    @OneToOne(mappedBy = "tour", cascade = CascadeType.ALL, orphanRemoval = true)
    private Permit permit;

    @ManyToOne(cascade = CascadeType.PERSIST)
    private Guide guide;

    protected Tour() {}

    public Tour(String name, Guide guide) {
        this.name = name;
        this.guide = guide;
    }

    public Leg walk(String to) {
        Leg leg = new Leg(this, to);
        legs.add(leg);
        return leg;
    }

    public void permit(String number) {
        permit = number == null ? null : new Permit(this, number);
    }

    public Long getId() {
        return id;
    }

    public String getName() {
        return name;
    }

    public void setName(String name) {
        this.name = name;
    }

    public int getVersion() {
        return version;
    }

    public List<Leg> getLegs() {
        return legs;
    }

    public List<Note> getNotes() {
        return notes;
    }

    public Set<Walker> getWalkers() {
        return walkers;
    }

    public Set<String> getTags() {
        return tags;
    }

    public List<Price> getPrices() {
        return prices;
    }

    public Permit getPermit() {
        return permit;
    }

    public Guide getGuide() {
        return guide;
    }

    /** What a tour costs. */
    @Embeddable
    public record Price(String season, int amount) {}

    /** A day of a tour. */
    @Entity
    @Table(name = "leg")
    public static class Leg {
        @Id
        @GeneratedValue
        private Long id;

        @ManyToOne(optional = false)
        private Tour tour;

        @Column(name = "goal")
        private String to;

        protected Leg() {}

        Leg(Tour tour, String to) {
            this.tour = tour;
            this.to = to;
        }

        public Long getId() {
            return id;
        }

        public Tour getTour() {
            return tour;
        }

        public String getTo() {
            return to;
        }

        public void setTo(String to) {
            this.to = to;
        }
    }

    /** A word on a tour, which knows nothing of it. */
    @Entity
    @Table(name = "note")
    public static class Note {
        @Id
        @GeneratedValue
        private Long id;

        private String text;

        protected Note() {}

        public Note(String text) {
            this.text = text;
        }

        public String getText() {
            return text;
        }
    }

    /** Somebody who walks. */
    @Entity
    @Table(name = "walker")
    @SQLRestriction("away = false")
    @SQLDelete(sql = "UPDATE walker SET away = true WHERE id = ?")
    public static class Walker {
        @Id
        @GeneratedValue
        private Long id;

        private String name;

        private boolean away;

        @ManyToMany(mappedBy = "walkers")
        private Set<Tour> tours = new HashSet<>();

        protected Walker() {}

        public Walker(String name) {
            this.name = name;
        }

        public String getName() {
            return name;
        }

        public Set<Tour> getTours() {
            return tours;
        }
    }

    /** A paper that allows a tour. */
    @Entity
    @Table(name = "permit")
    public static class Permit {
        @Id
        @GeneratedValue
        private Long id;

        @OneToOne
        private Tour tour;

        private String number;

        protected Permit() {}

        Permit(Tour tour, String number) {
            this.tour = tour;
            this.number = number;
        }

        public String getNumber() {
            return number;
        }
    }

    /** Who leads a tour. */
    @Entity
    @Table(name = "guide")
    public static class Guide {
        @Id
        @GeneratedValue
        private Long id;

        private String name;

        protected Guide() {}

        public Guide(String name) {
            this.name = name;
        }

        public String getName() {
            return name;
        }

        public void setName(String name) {
            this.name = name;
        }
    }
}
