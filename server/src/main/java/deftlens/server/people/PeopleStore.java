package deftlens.server.people;

import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;

interface PeopleStore extends Repository<Person, Long> {
    Person save(Person person);

    Optional<Person> findById(long id);

    Optional<Person> findByNameIgnoreCase(String name);

    @Query("select distinct p from Person p left join fetch p.teams order by p.fullName, p.id")
    List<Person> everyone();

    long count();
}
