package deftlens.server.people;

import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;

interface PeopleStore extends Repository<Person, Long> {
    Person save(Person person);

    Person saveAndFlush(Person person);

    Optional<Person> findById(long id);

    Optional<Person> findByNameIgnoreCase(String name);

    Optional<Person> findBySubject(String subject);

    @Query("select distinct p from Person p left join fetch p.teams order by p.fullName, p.id")
    List<Person> everyone();

    @Query("select p from Person p join p.teams t where t.id = :team order by p.fullName, p.id")
    List<Person> membersOf(long team);

    /** The numbers of all administrators who can sign in; none of them changes until this transaction ends. */
    @Query(
            value = "select id from person where active and role = 'ADMINISTRATOR' order by id for update",
            nativeQuery = true)
    List<Long> lockAdministrators();

    long count();
}
