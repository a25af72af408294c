package dev.zabbet.examples.spring;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.OneToMany;
import java.util.ArrayList;
import java.util.List;

/** A hut on the ring. */
@Entity
public class Hut {
    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String name = "";
    private int beds;

    @OneToMany(mappedBy = "hut")
    private List<Stay> stays = new ArrayList<>();

    /** For the provider. */
    protected Hut() {}

    /** Returns its key; null until it is stored. */
    public Long getId() {
        return id;
    }

    /** Returns its name. */
    public String getName() {
        return name;
    }

    /** Returns how many can sleep there. */
    public int getBeds() {
        return beds;
    }

    /** Returns the stays in it. */
    public List<Stay> getStays() {
        return stays;
    }
}
