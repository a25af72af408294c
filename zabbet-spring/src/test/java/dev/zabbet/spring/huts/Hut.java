package dev.zabbet.spring.huts;

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

    private String name;
    private int beds;

    @OneToMany(mappedBy = "hut")
    private List<Stay> stays = new ArrayList<>();

    protected Hut() {}

    public Hut(String name, int beds) {
        this.name = name;
        this.beds = beds;
    }

    public Long getId() {
        return id;
    }

    public String getName() {
        return name;
    }

    public int getBeds() {
        return beds;
    }

    public List<Stay> getStays() {
        return stays;
    }
}
