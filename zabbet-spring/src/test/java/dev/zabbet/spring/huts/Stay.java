package dev.zabbet.spring.huts;

import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.NamedNativeQuery;
import jakarta.persistence.NamedQuery;
import jakarta.persistence.Version;
import org.hibernate.annotations.Check;

/** Some nights of a guest in a hut. */
@Entity
@NamedQuery(name = "Stay.longerThan", query = "select s from Stay s where s.nights > :nights order by s.nights desc")
@NamedNativeQuery(name = "guests in sql", query = "select guest from stay where nights < ?1 order by guest desc")
public class Stay {
    /** Where a stay stands. */
    public enum Status {
        BOOKED,
        CANCELLED
    }

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @ManyToOne(fetch = FetchType.LAZY, optional = false)
    private Hut hut;

    private String guest;

    @Check(constraints = "nights BETWEEN 1 AND 14")
    private int nights;

    @Enumerated(EnumType.STRING)
    private Status status;

    @Version
    private int version;

    protected Stay() {}

    public Stay(Hut hut, String guest, int nights) {
        this.hut = hut;
        this.guest = guest;
        this.nights = nights;
        this.status = Status.BOOKED;
    }

    public Long getId() {
        return id;
    }

    public Hut getHut() {
        return hut;
    }

    public String getGuest() {
        return guest;
    }

    public int getNights() {
        return nights;
    }

    public Status getStatus() {
        return status;
    }

    public int getVersion() {
        return version;
    }

    public void cancel() {
        status = Status.CANCELLED;
    }
}
