-- name: lesson_add^
-- Begin a lesson.
insert into screen_lessons (school_id, sheet_id, position, body, rubric, points, solver_version, taught_by, token_hash)
values (:school_id, :sheet_id, :position, :body, :rubric, :points, :solver_version, :user_id, :token_hash) returning id;

-- name: lesson_count^
-- How many lessons a sheet has had.
select count(*)::int as n from screen_lessons where school_id = :school_id and sheet_id = :sheet_id;

-- name: lesson_row^
-- A lesson with the title of its sheet.
select l.*, s.title, s.class_id from screen_lessons l join sheets s on s.id = l.sheet_id
where l.school_id = :school_id and l.id = :id;

-- name: lesson_hold^
-- Hold a lesson while a step of it is done.
select id from screen_lessons where school_id = :school_id and id = :id for update;

-- name: lesson_by_token^
-- What the token of a class's screen opens: for a school day.
select l.*, s.title, s.class_id from screen_lessons l join sheets s on s.id = l.sheet_id
where l.token_hash = :token_hash and l.began_at > now() - interval '12 hours';

-- name: lesson_token!
-- Another link for the class's screen; the one before opens nothing more.
update screen_lessons set token_hash = :token_hash where school_id = :school_id and id = :id;

-- name: lesson_list
-- The lessons of a sheet, the newest first.
select id, position, began_at, ended_at, judged from screen_lessons
where school_id = :school_id and sheet_id = :sheet_id order by id desc;

-- name: lesson_of_mine^
-- The lesson that is on for whoever is logged in, the newest.
select l.*, s.title, s.class_id from apprentices a join sheets s on s.class_id = a.class_id
join screen_lessons l on l.sheet_id = s.id
where a.school_id = :school_id and a.user_id = :user_id and a.left_at is null and l.ended_at is null
  and l.began_at > now() - interval '12 hours' order by l.id desc limit 1;

-- name: lesson_turn!
-- Another vote, or none; the class's screen follows.
update screen_lessons set vote = :vote, revision = revision + 1 where school_id = :school_id and id = :id;

-- name: lesson_end!
update screen_lessons set ended_at = coalesce(ended_at, now()), judged = :judged, vote = null, revision = revision + 1
where school_id = :school_id and id = :id;

-- name: lesson_steps
-- The steps of a lesson, in order.
select number, kind, data, shown, vote from screen_lesson_steps where lesson_id = :lesson_id order by number;

-- name: lesson_step_add!
insert into screen_lesson_steps (school_id, lesson_id, number, kind, data, shown, vote)
values (:school_id, :lesson_id, :number, :kind, :data, :shown, :vote);

-- name: vote_put!
-- One's vote in a round; a later one stands for the earlier.
insert into screen_votes (school_id, lesson_id, round, user_id, choice)
values (:school_id, :lesson_id, :round, :user_id, :choice)
on conflict (lesson_id, round, user_id) do update set choice = excluded.choice;

-- name: vote_list
-- The votes of a round.
select user_id, choice from screen_votes where lesson_id = :lesson_id and round = :round order by id;

-- name: vote_seen!
-- The class's screen counts on.
update screen_lessons set revision = revision + 1 where id = :id;
