package dev.zabbet.spring.mapped;

import jakarta.persistence.AttributeConverter;
import jakarta.persistence.AttributeOverride;
import jakarta.persistence.CascadeType;
import jakarta.persistence.Column;
import jakarta.persistence.Convert;
import jakarta.persistence.Converter;
import jakarta.persistence.DiscriminatorColumn;
import jakarta.persistence.DiscriminatorValue;
import jakarta.persistence.ElementCollection;
import jakarta.persistence.Embeddable;
import jakarta.persistence.Embedded;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Inheritance;
import jakarta.persistence.InheritanceType;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.Lob;
import jakarta.persistence.ManyToMany;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.MappedSuperclass;
import jakarta.persistence.MapsId;
import jakarta.persistence.OneToMany;
import jakarta.persistence.OneToOne;
import jakarta.persistence.OrderColumn;
import jakarta.persistence.PrimaryKeyJoinColumn;
import jakarta.persistence.SecondaryTable;
import jakarta.persistence.SequenceGenerator;
import jakarta.persistence.Table;
import jakarta.persistence.Transient;
import jakarta.persistence.Version;
import java.io.Serializable;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.net.URL;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.Year;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Currency;
import java.util.Date;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.UUID;
import org.hibernate.annotations.CreationTimestamp;
import org.hibernate.annotations.Formula;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.annotations.SQLDelete;
import org.hibernate.annotations.SQLRestriction;
import org.hibernate.annotations.SortNatural;
import org.hibernate.annotations.UpdateTimestamp;
import org.hibernate.type.SqlTypes;

/** Entities as people write them: each maps something in another way. */
public final class Mapped {
    private Mapped() {}

    /** Where somebody lives. */
    @Embeddable
    public static class Address {
        @Column(nullable = false)
        public String street;

        public String zipCode;
    }

    /** An amount; a record inside an entity. */
    @Embeddable
    public record Price(
            @Column(nullable = false) BigDecimal amount,
            @Column(length = 3) String currency) {}

    /** Converted to text, by its type. */
    public record Altitude(int metres) {}

    /** Applies itself. */
    @Converter(autoApply = true)
    public static class AltitudeConverter implements AttributeConverter<Altitude, Integer> {
        @Override
        public Integer convertToDatabaseColumn(Altitude altitude) {
            return altitude == null ? null : altitude.metres();
        }

        @Override
        public Altitude convertToEntityAttribute(Integer metres) {
            return metres == null ? null : new Altitude(metres);
        }
    }

    /** Yes and no as letters. */
    @Converter
    public static class Letters implements AttributeConverter<Boolean, String> {
        @Override
        public String convertToDatabaseColumn(Boolean yes) {
            if (yes == null) {
                return null;
            }
            if (yes) {
                return "J";
            }
            return "N";
        }

        @Override
        public Boolean convertToEntityAttribute(String letter) {
            return letter == null ? null : letter.equals("J");
        }
    }

    /** A hut: both sides of a relation, a set of links, a collection of values. */
    @Entity
    public static class Hut {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long id;

        @Column(nullable = false, length = 40)
        public String name;

        public boolean open; // its column may be null
        public int beds;
        public Altitude altitude;

        @Column(nullable = false, length = 1)
        @Convert(converter = Letters.class)
        public Boolean heated;

        @OneToMany(mappedBy = "hut", cascade = CascadeType.ALL)
        public List<Stay> stays = new ArrayList<>();

        @ManyToMany
        public Set<Tag> tags = new HashSet<>();

        @ElementCollection
        @SortNatural
        public SortedSet<String> phones = new TreeSet<>();

        @Transient
        public String shout;

        public Long getId() {
            return id;
        }

        public String getName() {
            return name;
        }

        public List<Stay> getStays() {
            return stays;
        }
    }

    /** What huts are found by. */
    @Entity
    @Table(name = "hut_tag")
    public static class Tag {
        @Id
        public String word;
    }

    /** A stay: a lazy parent, enums by name and by number, a version, times that the provider sets. */
    @Entity
    public static class Stay {
        /** Where it stands. */
        public enum Status {
            BOOKED,
            CANCELLED_BY_THE_GUEST
        }

        @Id
        @GeneratedValue(strategy = GenerationType.SEQUENCE, generator = "stays")
        @SequenceGenerator(name = "stays", sequenceName = "numbers_of_stays", allocationSize = 20)
        public Long id;

        @ManyToOne(fetch = FetchType.LAZY, optional = false)
        public Hut hut;

        @ManyToOne(fetch = FetchType.LAZY)
        @JoinColumn(name = "paid_by")
        public Guest payer;

        @Enumerated(EnumType.STRING)
        @Column(length = 30)
        public Status status;

        public DayOfWeek arrival; // by its number

        @Version
        public int version;

        @CreationTimestamp
        public Instant createdAt;

        @UpdateTimestamp
        public Instant changedAt;

        public Long getId() {
            return id;
        }

        public Hut getHut() {
            return hut;
        }

        public Guest getPayer() {
            return payer;
        }
    }

    /** A guest: a key that the provider makes, and value objects. */
    @Entity
    @Table(name = "guests")
    public static class Guest {
        @Id
        @GeneratedValue(strategy = GenerationType.UUID)
        public UUID id;

        @Column(nullable = false, unique = true)
        public String email;

        @Embedded
        public Address address;

        public Price deposit;
        public Currency pays;
        public LocalDate born;
    }

    /** The key of a bed. */
    @Embeddable
    public static class BedKey implements Serializable {
        public Long hutId;
        public int number;

        @Override
        public boolean equals(Object other) {
            return other instanceof BedKey key && Objects.equals(hutId, key.hutId) && number == key.number;
        }

        @Override
        public int hashCode() {
            return Objects.hash(hutId, number);
        }
    }

    /** A bed: a parent that is part of the key. */
    @Entity
    public static class Bed {
        @EmbeddedId
        public BedKey key;

        @MapsId("hutId")
        @ManyToOne
        public Hut hut;

        public String place;
    }

    /** The key of an opening. */
    public static class OpeningKey implements Serializable {
        public int season;
        public String place;

        @Override
        public boolean equals(Object other) {
            return other instanceof OpeningKey key && season == key.season && Objects.equals(place, key.place);
        }

        @Override
        public int hashCode() {
            return Objects.hash(season, place);
        }
    }

    /** Two columns of its own as the key. */
    @Entity
    @IdClass(OpeningKey.class)
    public static class Opening {
        @Id
        public int season;

        @Id
        public String place;

        public LocalDate begins;
    }

    /** A guest's pass: one key for both. */
    @Entity
    public static class Pass {
        @Id
        public UUID id;

        @OneToOne
        @MapsId
        @JoinColumn(name = "guest_id")
        public Guest guest;

        public String country;
    }

    /** People in one table. */
    @Entity
    @Inheritance(strategy = InheritanceType.SINGLE_TABLE)
    @DiscriminatorColumn(name = "kind")
    public abstract static class Worker {
        @Id
        @GeneratedValue
        public Long id;

        public String name;
    }

    /** Runs a hut. */
    @Entity
    @DiscriminatorValue("W")
    public static class Warden extends Worker {
        public LocalDate since;

        @ManyToOne
        public Hut house;
    }

    /** Cooks. */
    @Entity
    @DiscriminatorValue("C")
    public static class Cook extends Worker {
        public String speciality;
    }

    /** Papers in joined tables. */
    @Entity
    @Inheritance(strategy = InheritanceType.JOINED)
    public abstract static class Paper {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long id;

        public LocalDate written;
    }

    /** What somebody has to pay. */
    @Entity
    public static class Invoice extends Paper {
        @Column(nullable = false)
        public BigDecimal total;

        @ManyToOne
        public Guest debtor;
    }

    /** Vehicles, each kind in a table of its own. */
    @Entity
    @Inheritance(strategy = InheritanceType.TABLE_PER_CLASS)
    public abstract static class Vehicle {
        @Id
        @GeneratedValue
        public Long id;

        public String plate;
    }

    /** Goes on snow. */
    @Entity
    public static class Sledge extends Vehicle {
        public int dogs;
    }

    /** Large values, documents, and what deletes itself softly. */
    @Entity
    @SQLRestriction("deleted_at IS NULL")
    @SQLDelete(sql = "UPDATE journal SET deleted_at = current_timestamp WHERE id = ?")
    public static class Journal {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long id;

        @Lob
        @Column(nullable = false)
        public String text;

        @Lob
        public byte[] picture;

        @JdbcTypeCode(SqlTypes.JSON)
        public Map<String, String> weather;

        public Instant deletedAt;
    }

    /** What is found only under conditions. */
    @Entity
    @SQLRestriction("hidden = false and kind <> 'DRAFT' and shown_from IS NOT NULL")
    @SQLDelete(sql = "UPDATE notice SET hidden = true, kind = 'DRAFT' WHERE id = ? AND version = ?")
    public static class Notice {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long id;

        @Version
        public int version;

        public boolean hidden;

        @Enumerated(EnumType.STRING)
        public Kind kind;

        public Instant shownFrom;

        /** What kind of notice it is. */
        public enum Kind {
            DRAFT,
            WARNING,
            NEWS
        }
    }

    /** Two tables. */
    @Entity
    @SecondaryTable(name = "season_notes", pkJoinColumns = @PrimaryKeyJoinColumn(name = "season_id"))
    public static class Season {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long id;

        public int year1;

        @Column(table = "season_notes")
        public String note;
    }

    /** One column twice: as an object, and as its key to read only. */
    @Entity
    public static class Trail {
        private Long id;
        private Hut start;
        private Long startId;
        private double kilometres;

        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        public Long getId() {
            return id;
        }

        public void setId(Long id) {
            this.id = id;
        }

        @ManyToOne(fetch = FetchType.LAZY)
        @JoinColumn(name = "start_hut")
        public Hut getStart() {
            return start;
        }

        public void setStart(Hut start) {
            this.start = start;
        }

        @Column(name = "start_hut", insertable = false, updatable = false)
        public Long getStartId() {
            return startId;
        }

        public void setStartId(Long startId) {
            this.startId = startId;
        }

        @Column(name = "km")
        public double getKilometres() {
            return kilometres;
        }

        public void setKilometres(double kilometres) {
            this.kilometres = kilometres;
        }
    }

    /** What all of the following share; the type of the key is left open. */
    @MappedSuperclass
    public abstract static class Audited<K extends Serializable> {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        protected K id;

        @Version
        private Long version;

        @Column(nullable = false, updatable = false)
        @CreationTimestamp
        private OffsetDateTime createdAt;

        private String createdBy;

        public K getId() {
            return id;
        }
    }

    /** A region: above another, with both sides of a relation of one to one, and columns of many types. */
    @Entity
    @Table(name = "`region of huts`")
    public static class Region extends Audited<Long> {
        @Column(name = "`order`", nullable = false)
        private int order;

        @ManyToOne(fetch = FetchType.LAZY)
        private Region above;

        @OneToMany(mappedBy = "above")
        private List<Region> below = new ArrayList<>();

        @OneToOne(mappedBy = "region", cascade = CascadeType.ALL)
        private Map1 map;

        @ElementCollection
        @Enumerated(EnumType.STRING)
        private Set<DayOfWeek> open = EnumSet.noneOf(DayOfWeek.class);

        private Duration walk;
        private Year since;
        private ZoneId zone;
        private Locale language;
        private URL page;
        private char letter;
        private Character other;
        private short small;
        private Boolean known;
        private float share;
        private BigInteger large;
        private ZonedDateTime seen;
        private LocalTime opens;
        private Date changed;
        private byte[] sketch;

        @Embedded
        @AttributeOverride(name = "street", column = @Column(name = "office_street", nullable = false))
        @AttributeOverride(name = "zipCode", column = @Column(name = "office_zip"))
        private Address office;

        @Embedded
        @AttributeOverride(name = "street", column = @Column(name = "home_street"))
        @AttributeOverride(name = "zipCode", column = @Column(name = "home_zip"))
        private Address home;

        @Formula("`order` + 1")
        private int next;
    }

    /** The map of a region. */
    @Entity
    public static class Map1 extends Audited<Integer> {
        @OneToOne(optional = false)
        private Region region;

        @Enumerated(EnumType.STRING)
        @Column(length = 6, nullable = false)
        private DayOfWeek printed; // longer than the column, most of them
    }

    /** A route, whose stops are kept in their order. */
    @Entity
    public static class Route extends Audited<Long> {
        @OneToMany(cascade = CascadeType.ALL, orphanRemoval = true)
        @JoinColumn(name = "route_id")
        @OrderColumn(name = "place")
        private List<Stop> stops = new ArrayList<>();

        @Column(nullable = false)
        private final String name;

        protected Route() {
            this.name = "";
        }

        public Route(String name) {
            this.name = name;
        }
    }

    /** A stop of a route. */
    @Entity
    public static class Stop extends Audited<Long> {
        @ManyToOne(optional = false)
        private Hut hut;

        @ManyToOne(optional = false)
        private Worker met; // an abstract class

        @ManyToOne
        private Paper proof; // an abstract class in joined tables
    }

    /** The key of a turn. */
    public static class TurnKey implements Serializable {
        public Long worker;
        public int week;

        @Override
        public boolean equals(Object other) {
            return other instanceof TurnKey key && Objects.equals(worker, key.worker) && week == key.week;
        }

        @Override
        public int hashCode() {
            return Objects.hash(worker, week);
        }
    }

    /** A relation as part of the key. */
    @Entity
    @IdClass(TurnKey.class)
    public static class Turn {
        @Id
        @ManyToOne
        public Worker worker;

        @Id
        public int week;

        public String task;
    }
}
